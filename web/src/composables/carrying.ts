/** Light carried along the ladder by dragging on the picture, while a Rungs line is open: up is lighter, sideways
 * how far the pull reaches. What is felt is shown. */
import { computed } from "vue";

import { client, need } from "../api/client";
import type { Spot } from "../model/plane";
import { within } from "../model/wording";
import { useScene } from "../stores/scene";
import { useView } from "../stores/view";

interface Rung {
  at: number;
  by: number;
  reach: number;
}
/** Px of a drag for one stop, as on the ladder. */
const PITCH = 44;
const PER_REACH = 40;
/** A rung so near is the one that is carried on. */
const NEAR = 0.5;

export function useCarrying() {
  const scene = useScene();
  const view = useView();
  const line = computed(() =>
    scene.moves.find((m) => m.id === scene.openMove && m.kind === "rungs" && !scene.openLatch),
  );
  const declared = computed(
    () =>
      scene.lightKinds.find((k) => k.kind === "rungs")?.fields.find((f) => f.kind === "drawn")?.items ?? [],
  );
  const limit = (name: string, v: number) => {
    const field = declared.value.find((f) => f.name === name);
    return field ? within(field, Math.round(v * 20) / 20) : v;
  };
  let drag: { x: number; y: number; rung: Rung | null; from: Rung; moved: boolean } | null = null;

  /** Take the place; its light is read while the pointer already moves. */
  function begin(e: PointerEvent, at: Spot): boolean {
    const held = line.value;
    if (!held || view.tool || view.comparing) return false;
    const mine = (drag = {
      x: e.clientX,
      y: e.clientY,
      rung: null,
      from: { at: 0, by: 0, reach: 0 },
      moved: false,
    });
    need(
      client.POST("/api/scenes/{scene_id}/pick", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, move: held.id, ...at },
      }),
    )
      .then((got) => {
        if (drag === mine) take(got.picked.stops);
      })
      .catch((error: Error) => (scene.problem = error.message));
    return true;
  }
  function take(stops: number): void {
    const rungs = (line.value!.params as unknown as { rungs: Rung[] }).rungs;
    let rung = rungs.find((r) => Math.abs(r.at - stops) < NEAR);
    if (!rung) {
      const fresh = declared.value.find((f) => f.name === "reach")!.default as number;
      rungs.push({ at: limit("at", stops), by: 0, reach: fresh });
      rung = rungs.at(-1)!;
    }
    Object.assign(drag!, { rung, from: { ...rung } });
    view.zone = { move: line.value!.id!, n: rungs.indexOf(rung) };
  }
  function move(e: PointerEvent): boolean {
    if (!drag) return false;
    const [dx, dy] = [e.clientX - drag.x, e.clientY - drag.y];
    if (!drag.rung || (!drag.moved && Math.hypot(dx, dy) < 3)) return true;
    drag.moved = true;
    const fine = e.shiftKey ? 0.1 : 1;
    drag.rung.by = limit("by", drag.from.by - (dy / PITCH) * fine);
    const sideways = Math.sign(dx) * Math.max(0, Math.abs(dx) - 24);
    drag.rung.reach = limit("reach", drag.from.reach + sideways / PER_REACH);
    scene.touched();
    return true;
  }
  function end(): void {
    const done = drag;
    drag = null;
    view.zone = null;
    if (done?.moved) void scene.commit("Rung carried on the picture");
    else if (done?.rung) scene.restore();
  }
  function cancel(): boolean {
    if (!drag) return false;
    drag = null;
    view.zone = null;
    scene.restore();
    return true;
  }
  return { line, begin, move, end, cancel };
}
