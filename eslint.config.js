import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["**/vendor/**", "**/shell/static/lib/**", "node_modules/**", ".venv/**", "var/**", "build/**"] },
  js.configs.recommended,
  {
    files: ["src/**/*.js"],
    languageOptions: { ecmaVersion: 2023, sourceType: "module", globals: { ...globals.browser, htmx: "readonly", Idiomorph: "readonly" } },
    rules: {
      "no-unused-vars": "error",
      "prefer-const": "error",
      "no-var": "error",
      eqeqeq: "error",
      "no-implicit-globals": "error",
    },
  },
  { files: ["src/**/service-worker.js"], languageOptions: { globals: globals.serviceworker } },
  { files: ["tests/js/**/*.js"], languageOptions: { ecmaVersion: 2023, sourceType: "module", globals: globals.node } },
];
