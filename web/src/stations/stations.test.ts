import { describe, expect, it } from "vitest";

import { along, bandsBeside, stationOf, STATIONS, wayTo } from "./index";
import { PATH, type Station } from "./station";

describe("the path", () => {
  it("leads to what is there", () => {
    expect(STATIONS.map((s) => s.name)).toEqual(PATH.filter((p) => STATIONS.some((s) => s.name === p)));
    expect(wayTo("Light", "7")).toBe("/light/7");
    expect(wayTo("Light")).toBe("");
    expect(wayTo("Gather", "7", "3")).toBe("/outing/3");
  });
  it("goes on past stones without a station", () => {
    expect(along("Ground", 1, "7")).toBe("/light/7");
    expect(along("Light", -1, "7")).toBe("/ground/7");
    expect(along("Gather", -1, "7")).toBe("");
  });
  it("takes a new one from its folder alone", () => {
    const proof: Station = { name: "Proof", side: {}, says: () => "2 papers" };
    const all = [...STATIONS.filter((s) => s.name !== "Proof"), proof];
    expect(stationOf("proof", all)?.says?.()).toBe("2 papers");
    expect(wayTo("Proof", "7", "3", all)).toBe("/proof/7");
    expect(along("Mend", 1, "7", "3", all)).toBe("/proof/7");
  });
  it("bands lie in computing order, not in that of the path", () => {
    const mend: Station = { name: "Mend", side: {}, band: () => "Wire across the sky." };
    const all = [...STATIONS.filter((s) => s.name !== "Mend"), mend];
    const names = (at: string, side: "under" | "over") => bandsBeside(at, side, all).map((s) => s.name);
    expect(names("Light", "under").slice(-2)).toEqual(["Ground", "Mend"]);
    expect(names("Ground", "over")).toEqual(["Mend", "Light", "Proof"]);
    expect(names("Light", "over")).toEqual(["Proof"]);
  });
});
