import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.ts"] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  { rules: { "@typescript-eslint/no-explicit-any": "error" } },
  { files: ["*.js"], languageOptions: { globals: { console: "readonly", process: "readonly" } } },
);
