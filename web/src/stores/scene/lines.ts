/** Lines of Light: new ones, and ones once more. */
import type { Kind, MoveLine, Schemas } from "../../api/client";
import type { Values } from "../../model/wording";
import type { Core } from "./core";

export const freshId = () => crypto.randomUUID();

/** A kind's settings as they are at first. */
export function defaults(kind: Kind): Values {
  return Object.fromEntries(
    kind.fields.map((f) => [
      f.name,
      f.kind === "point" ? undefined : f.kind === "drawn" ? [] : structuredClone(f.default ?? null),
    ]),
  );
}

export function lines(scene: Core, readAt: () => Schemas["ReadAt"]) {
  function addMove(kind: Kind, values: Values = {}, latchId: string | null = null): void {
    const held = latchId ?? scene.openLatch.value;
    const placed: Values = {};
    const plane = scene.plane.value;
    if (kind.kind === "poured_light" && plane) {
      placed.start = plane.toSource({ x: 0.5, y: 0.5 });
      placed.end = plane.toSource({ x: 0.75, y: 0.5 });
    }
    const line = { ...lineOf(kind, { ...placed, ...values }), latch: held };
    scene.document.value?.moves.push(line);
    scene.openMove.value = line.id;
    const name = scene.nameOf(held);
    void scene.commit(`${kind.label}${name ? ` on ${name}` : ""}`);
  }

  /** A fresh spare clause. */
  function spareOf(what: string): MoveLine["spare"][number] {
    return {
      what,
      edge: scene.vocabulary.value?.spare_edges[what],
      read_at: readAt(),
    } as MoveLine["spare"][number];
  }

  /** A fresh line of a kind; the server knows what settings it may have. */
  function lineOf(kind: Kind, values: Values): MoveLine {
    return {
      id: freshId(), kind: kind.kind, revision: kind.revision, name: "", note: "", on: true, strength: 1,
      latch: null, group: null, spare: kind.spares.map(spareOf), params: { ...defaults(kind), ...values },
    } as MoveLine; // prettier-ignore
  }

  /** A move once more, after the first. */
  function copyMove(key: string): void {
    const all = scene.document.value?.moves ?? [];
    const n = all.findIndex((m) => m.id === key);
    if (n < 0) return;
    const copy = { ...(JSON.parse(JSON.stringify(all[n])) as MoveLine), id: freshId() };
    all.splice(n + 1, 0, copy);
    scene.openMove.value = copy.id;
    void scene.commit(`Duplicate ${scene.lightKinds.value.find((k) => k.kind === copy.kind)?.label}`);
  }
  return { addMove, copyMove, lineOf, spareOf };
}
