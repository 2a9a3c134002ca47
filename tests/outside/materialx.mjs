// The MaterialX reference library (its WebAssembly build): its generator of shaders and its standard library.
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";

let library;
export async function materialx(modules) {
  if (library) return library;
  const need = createRequire(path.join(path.resolve(modules), "x.js"));
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
