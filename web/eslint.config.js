import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import { readdirSync, readFileSync } from "node:fs";
import typescript from "typescript";
import ts from "typescript-eslint";

const here = import.meta.dirname;

/**
 * How files are parsed in a run over all of the face: they are one program from the start. Told of components file by
 * file, the type checker begins anew with each. Expressions of their templates have no types either way.
 */
function atOnce() {
  const scriptOf = (path) => /<script\b[^>]*>(.*?)<\/script>/s.exec(readFileSync(path, "utf8"))?.[1] ?? "";
  const { config } = typescript.readConfigFile(`${here}/tsconfig.json`, typescript.sys.readFile);
  const { fileNames, options } = typescript.parseJsonConfigFileContent(config, typescript.sys, here);
  const host = typescript.createCompilerHost(options, true);
  const read = host.getSourceFile;
  host.getSourceFile = (path, target, ...rest) =>
    path.endsWith(".vue")
      ? typescript.createSourceFile(path, scriptOf(path), target, true, typescript.ScriptKind.TS)
      : read(path, target, ...rest);
  const components = readdirSync(`${here}/src`, { recursive: true })
    .filter((path) => path.endsWith(".vue"))
    .map((path) => `${here}/src/${path}`);
  const program = typescript.createProgram(
    [...fileNames, ...components],
    { ...options, allowNonTsExtensions: true },
    host,
  );
  const parseForESLint = (code, { projectService, ...given }) =>
    ts.parser.parseForESLint(
      code,
      program.getSourceFile(given.filePath)?.text === code ? { ...given, programs: [program] } : given,
    );
  return { parseForESLint };
}

const typed = { projectService: true, tsconfigRootDir: here, extraFileExtensions: [".vue"] };
const parser = process.env.LINT_ALL ? atOnce() : ts.parser;

export default ts.config(
  { ignores: ["dist", "src/api/generated.ts"] },
  ...ts.configs.recommended,
  ...vue.configs["flat/recommended"],
  { files: ["**/*.ts"], languageOptions: { parser, parserOptions: typed } },
  { files: ["**/*.vue"], languageOptions: { parserOptions: { parser, ...typed } } },
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
