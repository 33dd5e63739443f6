// Runs the glTF validator over one file and prints its verdict as JSON.
// Arguments: the folder whose node_modules hold the validator, the file. Pictures may lie beside it, nowhere else.
import { createRequire } from "node:module";
import { readFileSync } from "node:fs";
import { basename, dirname, join } from "node:path";

const [home, file] = process.argv.slice(2);
const { validateBytes } = createRequire(`${home}/package.json`)("gltf-validator");
const beside = async (uri) => new Uint8Array(readFileSync(join(dirname(file), basename(decodeURIComponent(uri)))));
const report = await validateBytes(new Uint8Array(readFileSync(file)), {
  maxIssues: 10,
  externalResourceFunction: beside,
});
const { numErrors, numWarnings, messages } = report.issues;
// The gravest first.
messages.sort((a, b) => a.severity - b.severity);
console.log(JSON.stringify({ errors: numErrors, warnings: numWarnings, messages }));
