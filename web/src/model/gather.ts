/** Gather's frames in blocks: groups and single frames, in the order they were taken. */
import type { Schemas } from "../api/client";

export type Frame = Schemas["FrameLine"];
export type Group = Schemas["GroupLine"];
/** The heap a frame lies on; "" for none. */
export type Sorting = Schemas["Sorting"]["sorting"];

export interface Block {
  key: string;
  group: Group | null;
  frames: Frame[];
}

/** Ours for the three heaps, with the key that puts a frame there. */
export const HEAPS: { sorting: Sorting; label: string; key: string }[] = [
  { sorting: "evening", label: "Evening", key: "e" },
  { sorting: "maybe", label: "Maybe", key: "m" },
  { sorting: "leave", label: "Leave", key: "l" },
  { sorting: "", label: "Unsorted", key: "u" },
];

const KINDS: Record<string, string> = { sweep: "Sweep", bracket: "Bracket", twin: "Dark and bright pair" };

export const kindName = (kind: string): string => KINDS[kind] ?? kind;

/** "Sweep of 5", "Dark and bright pair". */
export function groupName(group: Group, count: number): string {
  return group.kind === "twin" && count === 2 ? kindName("twin") : `${kindName(group.kind)} of ${count}`;
}

/** What a group is good for, as it stands behind its name. */
export function goodFor(group: Group, frames: Frame[]): string {
  if (group.kind === "sweep") return ": one wide picture";
  if (group.kind === "twin") return ": the sky of one over the land of the other";
  const times = frames.map((f) => Number(f.info.exposure_s)).filter((t) => t > 0);
  const range = Math.log2(Math.max(...times) / Math.min(...times));
  const apart = times.length > 1 && times.length === frames.length ? range / (times.length - 1) : 0;
  const by =
    apart > 0.2
      ? `, ${Number(apart.toFixed(1))} ${apart < 1.05 && apart > 0.95 ? "stop" : "stops"} apart`
      : "";
  return `${by}: one picture with all of its range`;
}

/** Frames gathered into blocks; a group stands where its first frame was taken. */
export function blocks(frames: Frame[], groups: Group[], heap: string | null): Block[] {
  const known = new Map(groups.map((g) => [g.id, g]));
  const out: Block[] = [];
  const started = new Map<string, Block>();
  for (const frame of frames) {
    if (heap !== null && frame.sorting !== heap) continue;
    const group = frame.group ? (known.get(frame.group) ?? null) : null;
    const block = group && started.get(group.id);
    if (block) block.frames.push(frame);
    else {
      const made = { key: group?.id ?? frame.id, group, frames: [frame] };
      out.push(made);
      if (group) started.set(group.id, made);
    }
  }
  return out;
}

/** How much of a frame clipped in the camera, in words; empty where the file has no mosaic. */
export function clipped(info: Record<string, unknown>): string {
  const shares = info.clipped as number[] | null | undefined;
  if (!shares) return "";
  const most = Math.max(...shares) * 100;
  return most < 0.05 ? "nothing clipped" : `clipped ${most < 9.95 ? most.toFixed(1) : most.toFixed(0)} %`;
}
