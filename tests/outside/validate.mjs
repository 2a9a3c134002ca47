// node validate.mjs MODULES FILE...: what the glTF validator and the MaterialX reference library (its WebAssembly build)
// find in each file, one JSON line a file: {"file", "errors", "warnings", "messages"}. For MaterialX a shader is
// generated from every material as well.
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";
import { materialx } from "./materialx.mjs";

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

async function mtlx(file) {
  const { mx, generator, context, standard } = await materialx(modules);
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
