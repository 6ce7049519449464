const js = require("@eslint/js");
const globals = require("globals");

module.exports = [
  js.configs.recommended,
  {
    files: ["answers.js", "arcs.js", "desk.js", "fill.js", "find.js", "frame.js", "leaving.js", "marks.js", "respond.js", "responses.js"],
    languageOptions: { sourceType: "script", globals: { ...globals.browser, htmx: "readonly", marks: "writable" } },
    rules: { "no-unused-vars": ["error", { args: "none", caughtErrors: "none" }], eqeqeq: "error" },
  },
];
