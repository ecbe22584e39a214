/** Every word on screen stands in one list, words.txt, where it can be read at a glance and said the same everywhere; a string
 * that is not in it fails here (vitest -u writes it down, for somebody to read). What was retired does not come back. */
import ts from "typescript";
import { parse } from "vue/compiler-sfc";
import { describe, expect, it } from "vitest";

interface Node {
  type: number;
  content?: string | { content: string };
  props?: { type: number; name: string; value?: { content: string }; exp?: { content: string } }[];
  children?: Node[];
  branches?: Node[];
}
const files = import.meta.glob<string>(
  ["../**/*.vue", "../**/*.ts", "!../**/*.test.ts", "!../api/generated.ts"],
  {
    eager: true,
    query: "?raw",
    import: "default",
  },
);
const SAID = ["aria-label", "label", "placeholder", "alt", "data-help", "hint", "asks", "go"];

/** What a template says in so many words. */
function said(node: Node, out: Set<string>): void {
  const text =
    node.type === 2 && typeof node.content === "string" ? node.content.replace(/\s+/g, " ").trim() : "";
  if (/\p{L}{2}/u.test(text)) out.add(text);
  for (const p of node.props ?? [])
    if (p.type === 6 && SAID.includes(p.name) && p.value?.content) out.add(p.value.content);
  for (const child of [...(node.children ?? []), ...(node.branches ?? [])]) said(child, out);
}
/** What a script says: its strings that are words (a name of something is one word in small letters), with … where a value stands. */
function spoken(script: string, out: Set<string>): void {
  function walk(node: ts.Node): void {
    if (ts.isImportDeclaration(node) || ts.isLiteralTypeNode(node)) return;
    let text = "";
    if (ts.isStringLiteralLike(node)) text = node.text;
    else if (ts.isTemplateExpression(node))
      text = [node.head.text, ...node.templateSpans.map((s) => s.literal.text)].join("…");
    text = text.replace(/\s+/g, " ").trim();
    if (/input|^\./.test(text)) text = ""; // where something is on the page
    if (/^[A-Z][a-z]+\b/.test(text) || /\p{Ll}{2,}[,;]? \p{Ll}{2,}/u.test(text)) out.add(text);
    ts.forEachChild(node, walk);
  }
  walk(ts.createSourceFile("", script, ts.ScriptTarget.Latest, true));
}
const words = new Set<string>();
for (const [name, source] of Object.entries(files)) {
  const parts = name.endsWith(".vue") ? parse(source).descriptor : null;
  if (parts?.template?.ast) said(parts.template.ast as unknown as Node, words);
  spoken(parts ? (parts.scriptSetup?.content ?? parts.script?.content ?? "") : source, words);
}

/** Said so once, and better now. */
const RETIRED = [
  "Put away", "Never mind", "None of them", "Take back", "Take it out", "Take all out", "Put it back", "Take up",
  "Twice", "Go on with", "does not answer", "was not taken;", "Bring in frames", "Read a folder", "Begin it",
  "Call it that", "Make a scene", "Booth", "Ease off", "Untouched", "Pushed", "Edge-true", "Follow fine edges",
  "Read the picture again", "Invert the whole", "Here the latch holds", "What is wrong where", "Lend from",
  "Draw an upright", "Carry it", "Hidden for a look", "As in its own scene", "Lay a grid", "Nothing is open",
  "read before the last change", "looking for it in the frame", "sharper in a moment", "with a rim", "Keep it so",
]; // prettier-ignore

describe("words", () => {
  it("stand in one list", async () => {
    await expect([...words].sort().join("\n") + "\n").toMatchFileSnapshot("./words.txt");
  });
  it("that were retired do not come back", () => {
    const found = Object.entries(files).flatMap(([name, source]) => {
      const lines = source.split("\n").filter((l) => !/^\s*(\/\/|\*|\/\*)/.test(l));
      return RETIRED.filter((w) => lines.some((l) => l.includes(w))).map((w) => `${name}: ${w}`);
    });
    expect(found).toEqual([]);
  });
});
