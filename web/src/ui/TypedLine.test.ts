import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";

import TypedLine from "./TypedLine.vue";

describe("a line of text of the document's own", () => {
  const made = (value: string) => mount(TypedLine, { props: { value }, attachTo: document.body });
  const typed = async (line: ReturnType<typeof made>, text: string) => {
    line.get("input").element.value = text;
    await line.get("input").trigger("input");
  };

  it("keeps what is being typed while the document is drawn anew, and gives it once it is finished", async () => {
    const line = made("Latch 2");
    await typed(line, "Lan");
    await line.setProps({ value: "Latch 2 " }); // an answer came in
    expect(line.get("input").element.value).toBe("Lan");
    await typed(line, " Land ");
    await line.get("input").trigger("change");
    expect(line.emitted("done")).toEqual([["Land"]]);
    await line.setProps({ value: "Land" });
    expect(line.get("input").element.value).toBe("Land");
    await line.get("input").trigger("blur");
    expect(line.emitted("done")).toHaveLength(1);
  });
  it("shows what the document says while nobody types, and puts back what was not taken", async () => {
    const line = made("Sky");
    await line.setProps({ value: "Upper sky" });
    expect(line.get("input").element.value).toBe("Upper sky");
    await typed(line, "");
    await line.get("input").trigger("change");
    await line.vm.$nextTick();
    expect(line.get("input").element.value).toBe("Upper sky");
  });
});
