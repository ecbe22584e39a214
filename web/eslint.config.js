import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import ts from "typescript-eslint";

const typed = { projectService: true, tsconfigRootDir: import.meta.dirname, extraFileExtensions: [".vue"] };

export default ts.config(
  { ignores: ["dist", "src/api/generated.ts"] },
  ...ts.configs.recommended,
  ...vue.configs["flat/recommended"],
  { files: ["**/*.ts"], languageOptions: { parserOptions: typed } },
  { files: ["**/*.vue"], languageOptions: { parserOptions: { parser: ts.parser, ...typed } } },
  {
    files: ["src/**/*.ts", "src/**/*.vue"],
    rules: {
      // a promise nobody waits for says so, or its failure is said by nobody
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": [
        "error",
        { checksVoidReturn: { arguments: false, attributes: false } },
      ],
    },
  },
  prettier,
);
