import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";

import { describe, expect, it } from "vitest";

const SRC = join(__dirname, "..");
const files = readdirSync(SRC, { recursive: true, encoding: "utf8" }).filter((f) => f.endsWith(".vue"));
const text = (file: string) => readFileSync(join(SRC, file), "utf8");
const known = new Set(text("styles/tokens.css").match(/--[\w-]+(?=:)/g));

describe("styles", () => {
  it.each([...files, "styles/booth.css"])("of %s name their colours", (file) => {
    const style = file.endsWith(".css") ? text(file) : (text(file).split("<style")[1] ?? "");
    expect(style.match(/#[0-9a-fA-F]{3,8}\b/g)).toBeNull();
    for (const name of style.match(/(?<=var\()--[\w-]+/g) ?? []) expect(known).toContain(name);
  });
});
