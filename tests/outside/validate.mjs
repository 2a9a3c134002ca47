// node validate.mjs MODULES FILE...: what the glTF validator and the MaterialX reference library (its WebAssembly build)
// find in each file, one JSON line a file: {"file", "errors", "warnings", "messages"}. For MaterialX a shader is
// generated from every material as well.
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";

const [modules, ...files] = process.argv.slice(2);
const need = createRequire(path.join(path.resolve(modules), "x.js"));

async function gltf(file) {
  const validator = need("gltf-validator");
  const folder = path.dirname(file);
  const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(file)), {
    uri: path.basename(file),
    externalResourceFunction: async (uri) =>
      new Uint8Array(fs.readFileSync(path.join(folder, decodeURIComponent(uri)))),
  });
  const { numErrors, numWarnings, messages } = report.issues;
  return { errors: numErrors, warnings: numWarnings, messages: messages.map((m) => `${m.code} ${m.pointer}: ${m.message}`) };
}

let library;
async function materialx() {
  if (library) return library;
  const bin = path.join(path.resolve(modules), "node_modules/@needle-tools/materialx/bin");
  // The module is written for browsers: as CommonJS, told where its parts are, it reads them itself.
  const source = fs.readFileSync(path.join(bin, "JsMaterialXGenShader.js"), "utf8");
  const temporary = path.join(fs.mkdtempSync("/tmp/materialx-"), "m.cjs");
  fs.writeFileSync(temporary, source.replace(/export default \w+;?/, "") + "\nmodule.exports = MaterialX;\n");
  const parts = (name) => path.join(bin, name.includes("GenShader.data") ? "JsMaterialXGenShader.data.txt" : path.basename(name));
  const mx = await need(temporary)({ locateFile: parts, print: () => {}, printErr: () => {} });
  const generator = mx.EsslShaderGenerator.create();
  const context = new mx.GenContext(generator);
  const standard = mx.loadStandardLibraries(context);
  return (library = { mx, generator, context, standard });
}

async function mtlx(file) {
  const { mx, generator, context, standard } = await materialx();
  const doc = mx.createDocument();
  doc.importLibrary(standard);
  const messages = [];
  try {
    await mx.readFromXmlString(doc, fs.readFileSync(file, "utf8"), "");
  } catch (e) {
    return { errors: 1, warnings: 0, messages: ["cannot be read: " + e] };
  }
  const said = {};
  const valid = doc.validate(said);
  if (!valid) messages.push("not valid: " + JSON.stringify(said));
  let shaders = 0;
  for (const material of doc.getMaterialNodes()) {
    try {
      const shader = generator.generate(material.getName(), material, context);
      if (shader.getSourceCode("pixel").length > 100) ++shaders;
    } catch (e) {
      const why = typeof e === "number" && mx.getExceptionMessage ? mx.getExceptionMessage(e) : e;
      messages.push(`no shader from ${material.getName()}: ${why}`);
    }
  }
  return { errors: messages.length, warnings: 0, messages, shaders };
}

for (const file of files) {
  const found = file.endsWith(".mtlx") ? await mtlx(file) : await gltf(file);
  console.log(JSON.stringify({ file, ...found }));
}
