/** Light carried along the ladder by dragging on the picture, while a line of Rungs or a Curve is open: up is
 * lighter, sideways how far a rung's pull reaches. What a rung is felt by is shown. */
import { computed } from "vue";

import { client, need, type Values } from "../../api/client";
import { onPicture, type Spot } from "../../model/plane";
import type { Place } from "../../picture/pointer";
import { within } from "../../model/wording";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import type { Hand, Tool } from "../tool";

/** A rung, which goes by so many stops, or a point of a curve, which goes to a place. */
interface Carried {
  at: number;
  by?: number;
  to?: number;
  reach?: number;
}
interface Drag {
  on: Spot;
  rung: Carried | null;
  from: Carried;
  fresh: Carried[] | null;
  moved: boolean;
}
/** Px of a drag for one stop, as on the ladder. */
const PITCH = 44;
const PER_REACH = 40;
/** A rung so near is the one that is carried on. */
const NEAR = 0.5;

export default function carrying(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const line = computed(() =>
    scene.moves.find(
      (m) => m.id === scene.openMove && (m.kind === "rungs" || m.kind === "curve") && !scene.openLatch,
    ),
  );
  const drawn = computed(() =>
    scene.lightKinds.find((k) => k.kind === line.value?.kind)?.fields.find((f) => f.kind === "drawn"),
  );
  const declared = computed(() => drawn.value?.items ?? []);
  const limit = (name: string, v: number) => {
    const field = declared.value.find((f) => f.name === name);
    return field ? within(field, Math.round(v * 20) / 20) : v;
  };
  let drag: Drag | null = null;

  /** Take the place; its light is read while the pointer already moves. */
  function down(place: Place): boolean {
    const held = line.value;
    if (!held) return false;
    const mine = (drag = { on: place.stage, rung: null, from: { at: 0 }, fresh: null, moved: false } as Drag);
    const at = onPicture(hand.frame.value, place.stage);
    need(
      client.POST("/api/scenes/{scene_id}/pick", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current(), move: held.id, ...at },
      }),
    )
      .then((got) => {
        if (drag === mine) take(got.picked.stops);
      })
      .catch((error: Error) => scene.notices.tell("carried", error));
    return true;
  }
  function take(stops: number): void {
    const held = (line.value!.params as Values)[drawn.value!.name] as Carried[];
    const curve = line.value!.kind === "curve";
    let rung = held.find((r) => Math.abs(r.at - stops) < NEAR);
    if (!rung) {
      const at = limit("at", stops);
      const reach = declared.value.find((f) => f.name === "reach")?.default as number;
      held.push(curve ? { at, to: at } : { at, by: 0, reach });
      rung = held.at(-1)!;
      drag!.fresh = held;
    }
    Object.assign(drag!, { rung, from: { ...rung } });
    if (!curve) view.zone = { move: line.value!.id!, n: held.indexOf(rung) };
  }
  function move(place: Place): void {
    if (!drag) return;
    const [dx, dy] = [place.stage.x - drag.on.x, place.stage.y - drag.on.y];
    if (!drag.rung || (!drag.moved && Math.hypot(dx, dy) < 3)) return;
    drag.moved = true;
    const fine = place.shift ? 0.1 : 1;
    const up = (-dy / PITCH) * fine;
    const { rung, from } = drag;
    if (from.to !== undefined) rung.to = limit("to", from.to + up);
    else {
      const sideways = Math.sign(dx) * Math.max(0, Math.abs(dx) - 24);
      rung.by = limit("by", from.by! + up);
      rung.reach = limit("reach", from.reach! + sideways / PER_REACH);
    }
    scene.touched();
  }
  function up(): void {
    const done = drag;
    drag = null;
    view.zone = null;
    const what = line.value?.kind === "curve" ? "Draw curve" : "Move rung";
    if (done?.moved) void scene.commit(`${what} on the picture`);
    else if (done?.fresh) done.fresh.pop(); // a click carries nothing
  }
  function cancel(): boolean {
    if (!drag) return false;
    drag = null;
    view.zone = null;
    scene.restore();
    return true;
  }
  const ready = () => !!line.value && !view.comparing;
  return { carry: { ready, cursor: "ns-resize", down, move, up, cancel } };
}
