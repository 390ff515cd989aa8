import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import globals from "globals";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...ts.configs.strict,
  a11y.flatConfigs.strict,
  {
    plugins: { "react-hooks": hooks },
    rules: { ...hooks.configs.recommended.rules },
    languageOptions: { globals: globals.browser },
  },
);
