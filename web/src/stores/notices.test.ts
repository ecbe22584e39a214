import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";

import { Refusal } from "../api/client";
import { useNotices } from "./notices";

describe("notices", () => {
  beforeEach(() => setActivePinia(createPinia()));

  it("of one thing go when that goes well, and not when another does", () => {
    const notices = useNotices();
    notices.tell("ladder", new Refusal("No connection to the server.", 0));
    notices.tell("mask", "There is no latch.");
    notices.settle("picture");
    expect(notices.all.map((n) => n.about)).toEqual(["ladder", "mask"]);
    notices.settle("ladder");
    expect(notices.all).toEqual([{ about: "mask", sentence: "There is no latch." }]);
  });
  it("do not repeat that one is signed out: the password is asked for", () => {
    const notices = useNotices();
    notices.tell("picture", new Refusal("You are signed out.", 401));
    expect(notices.all).toEqual([]);
  });
  it("says the same of two things once, and both are put away together", () => {
    const notices = useNotices();
    notices.tell("ladder", "The disk is full.");
    notices.tell("picture", "The disk is full.");
    notices.tell("mask", "There is no latch.");
    expect(notices.all.map((n) => n.sentence)).toEqual(["The disk is full.", "There is no latch."]);
    notices.dismiss(notices.all[0]!.about);
    expect(notices.all.map((n) => n.about)).toEqual(["mask"]);
  });
  it("says a thing once, where another says it with more to it", () => {
    const notices = useNotices();
    notices.tell("ladder", "A part is missing.");
    notices.tell("picture", "Regrow cannot be shown. A part is missing.");
    expect(notices.all.map((n) => n.about)).toEqual(["picture"]);
    notices.settle("picture");
    expect(notices.all.map((n) => n.about)).toEqual(["ladder"]);
  });
});
