// What ESLint's own recommendation refuses, and what bites in small scripts.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    languageOptions: { ecmaVersion: 2022, sourceType: "module", globals: { ...globals.browser, htmx: "readonly", ol: "readonly" } },
    linterOptions: { reportUnusedDisableDirectives: "error" },
    rules: {
      eqeqeq: "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-shadow": "error",
      "no-use-before-define": ["error", { functions: false, variables: false }],
      "no-implicit-coercion": ["error", { boolean: false }],
      "no-eval": "error",
      "no-implied-eval": "error",
      "no-return-assign": ["error", "except-parens"],
      "max-len": ["error", { code: 160, ignoreTemplateLiterals: true, ignoreStrings: true }],
    },
  },
];
