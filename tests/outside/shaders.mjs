// node shaders.mjs MODULES FILE.mtlx...: the shader that the MaterialX reference library makes of every output of each
// document's own graphs, as FILE.mtlx.OUTPUT.frag in GLSL ES 3, and the values of its uniforms as FILE.mtlx.OUTPUT.json:
// by name its type and its value as text.
import fs from "node:fs";
import { materialx } from "./materialx.mjs";

const [modules, ...files] = process.argv.slice(2);
const { mx, generator, context, standard } = await materialx(modules);

function uniforms(shader) {
  const values = {};
  for (const block of Object.values(shader.getStage("pixel").getUniformBlocks()))
    for (let i = 0; i < block.size(); ++i) {
      const port = block.get(i);
      const value = port.getValue();
      values[port.getVariable()] = { type: port.getType().getName(), value: value ? value.getValueString() : "" };
    }
  return values;
}

for (const file of files) {
  const doc = mx.createDocument();
  await mx.readFromXmlString(doc, fs.readFileSync(file, "utf8"), "");
  const graphs = doc.getNodeGraphs().map((g) => g.getName());
  doc.setDataLibrary(standard);
  const said = {};
  if (!doc.validate(said)) throw new Error(file + " is not valid: " + JSON.stringify(said));
  for (const name of graphs)
    for (const output of doc.getNodeGraph(name).getOutputs()) {
      const shader = generator.generate(output.getName(), output, context);
      fs.writeFileSync(`${file}.${output.getName()}.frag`, shader.getSourceCode("pixel"));
      fs.writeFileSync(`${file}.${output.getName()}.json`, JSON.stringify(uniforms(shader)));
    }
}
