// Runs the glTF validator over one file and prints its verdict as JSON.
// Arguments: the folder whose node_modules hold the validator, the file.
import { createRequire } from "node:module";
import { readFileSync } from "node:fs";

const [home, file] = process.argv.slice(2);
const { validateBytes } = createRequire(`${home}/package.json`)("gltf-validator");
const report = await validateBytes(new Uint8Array(readFileSync(file)), { maxIssues: 10 });
const { numErrors, numWarnings, messages } = report.issues;
console.log(JSON.stringify({ errors: numErrors, warnings: numWarnings, messages }));
