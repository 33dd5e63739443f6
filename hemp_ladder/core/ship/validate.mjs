// Loads the glTF validator, then runs it over the file whose path, as JSON, comes in, and prints its verdict as JSON.
// Argument: the folder whose node_modules hold the validator. Pictures may lie beside the file, nowhere else.
import { createRequire } from "node:module";
import { readFileSync } from "node:fs";
import { basename, dirname, join } from "node:path";

const { validateBytes } = createRequire(`${process.argv[2]}/package.json`)("gltf-validator");
const said = readFileSync(0, "utf8");
// Whoever had it load needed it for nothing.
if (!said) process.exit();
const file = JSON.parse(said);
const beside = async (uri) => new Uint8Array(readFileSync(join(dirname(file), basename(decodeURIComponent(uri)))));
const report = await validateBytes(new Uint8Array(readFileSync(file)), {
  maxIssues: 10,
  externalResourceFunction: beside,
});
const { numErrors, numWarnings, messages } = report.issues;
// The gravest first.
messages.sort((a, b) => a.severity - b.severity);
console.log(JSON.stringify({ errors: numErrors, warnings: numWarnings, messages }));
