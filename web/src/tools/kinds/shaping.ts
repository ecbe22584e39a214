/** What bends the picture, in hand: a line that should be straight, pins, a foreground pulled nearer, the brush that nudges. */
import { ref } from "vue";

import { onPicture, type Plane, type Spot } from "../../model/plane";
import { placesOf, short, type NudgeStroke } from "../../model/shapes";
import type { Place } from "../../picture/pointer";
import { useScene } from "../../stores/scene";
import { useShape } from "../../stores/shape";
import BrushMarks from "../BrushMarks.vue";
import OutlineDrawn from "../OutlineDrawn.vue";
import type { Hand, Tool } from "../tool";
import type { OutlineTool } from "./mending";
import type { BrushTool } from "./painting";

/** Px of the stage between points of a stroke or an outline. */
const APART = 2;
/** Points a stroke of the brush may have. */
const MOST = 900;
const SAYS: Record<NudgeStroke["verb"], string> = {
  carry: "Push",
  swell: "Enlarge",
  draw_in: "Shrink",
  settle: "Smooth",
  put_back: "Restore",
};

export default function shaping(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const shape = useShape();
  const onFrame = (p: Spot) => scene.plane!.toSource(onPicture(hand.frame.value, p));
  /** Long edges per px of the stage. */
  const per = () => {
    const box = scene.map!.box;
    return (box[2]! - box[0]!) / hand.frame.value.width;
  };
  const cursor = ref<Spot | null>(null);
  const hover = (at: Place | null) => void (cursor.value = at?.stage ?? null);

  // a line, place by place: in the document from its second on, and made straight from its third
  const first = ref<Spot | null>(null);
  let which = -1;
  const places = () => shape.reshape().lines[which]?.points.length ?? 0;
  async function along(at: Spot): Promise<void> {
    if (which >= 0 && !(shape.open?.kind === "reshape" && shape.open.lines[which])) which = -1;
    if (which < 0 && !first.value) {
      first.value = at;
      return;
    }
    which = shape.alongLine(first.value ? [first.value, at] : [at], which);
    first.value = null;
    await scene.commit(places() < 6 ? "Begin line" : "Straighten line");
  }
  const bend: OutlineTool = {
    says: "Point at three places or more along what should be straight. Escape ends the line.",
    draws: OutlineDrawn,
    line: () => [],
    places() {
      const open = shape.open?.kind === "reshape" ? shape.open.lines[which] : undefined;
      const held = [...(first.value ? [first.value] : []), ...(open ? placesOf(open.points) : [])];
      const { left, top, width, height } = hand.frame.value;
      return held.map((p) => {
        const on = scene.plane!.toPicture(p);
        return { x: left + on.x * width, y: top + on.y * height };
      });
    },
    down: () => undefined,
    up: (at) => along(onFrame(at.stage)),
    key: (at) => void along(scene.plane!.toSource(at)),
    cancel() {
      const was = first.value !== null || which >= 0;
      first.value = null;
      which = -1;
      return was;
    },
  };

  let held: { at: Spot; pin: { dx?: number; dy?: number } } | null = null;
  const pin: Tool = {
    says: "Press on a place and carry it; one that is only pointed at is held where it is.",
    cursor: "crosshair",
    down(at) {
      const made = shape.pin(onFrame(at.stage));
      held = { at: at.stage, pin: made.line.pins[made.n]! };
      scene.touched();
    },
    move(at) {
      if (!held) return;
      held.pin.dx = short((at.stage.x - held.at.x) * per());
      held.pin.dy = short((at.stage.y - held.at.y) * per());
      scene.touched();
    },
    async up() {
      const done = held;
      held = null;
      if (done) await scene.commit(done.pin.dx || done.pin.dy ? "Drag point" : "Fix point");
    },
    cancel() {
      const was = held !== null;
      held = null;
      if (was) scene.restore();
      return was;
    },
    key(at) {
      shape.pin(scene.plane!.toSource(at));
      void scene.commit("Fix point");
    },
    busy: () => held !== null,
  };

  const path = ref<Spot[]>([]);
  function add(at: Spot): boolean {
    const before = path.value.at(-1);
    if (before && Math.hypot(at.x - before.x, at.y - before.y) < APART) return false;
    path.value.push(at);
    return true;
  }
  const pull: OutlineTool = {
    says: "Outline a foreground, out to the edge of the picture; it is pulled nearer.",
    draws: OutlineDrawn,
    line: () => path.value,
    places: () => [],
    down(at) {
      path.value = [at.stage];
    },
    move: (at) => at.between.forEach((some) => add(some.stage)),
    up() {
      const drawn = path.value;
      path.value = [];
      if (drawn.length < 6) return;
      const every = Math.max(1, Math.ceil(drawn.length / 200));
      shape.pull(drawn.filter((_, n) => n % every === 0).map(onFrame));
    },
    // without a pointer: all that lies below
    key(at) {
      const corners = [[0, at.y], [1, at.y], [1, 1], [0, 1]]; // prettier-ignore
      shape.pull(corners.map(([x, y]) => scene.plane!.toSource({ x: x!, y: y! })));
    },
    cancel() {
      const was = path.value.length > 0;
      path.value = [];
      return was;
    },
  };

  // what the brush touches lies where the picture showed it when the stroke was begun
  let under: { stroke: NudgeStroke; plane: Plane } | null = null;
  function lay(at: Spot, pressure: number): void {
    if (!under || under.stroke.points.length >= 3 * MOST || !add(at)) return;
    const p = under.plane.toSource(onPicture(hand.frame.value, at));
    under.stroke.points.push(short(p.x), short(p.y), Number(pressure.toFixed(2)));
  }
  function begin(at: Spot, pressure: number): void {
    path.value = [];
    const strokes = shape.nudge().strokes;
    strokes.push({ ...shape.brush, points: [] });
    under = { stroke: strokes.at(-1)!, plane: scene.plane! };
    lay(at, pressure);
  }
  async function end(): Promise<void> {
    const done = under;
    under = null;
    path.value = [];
    if (done) await scene.commit(SAYS[done.stroke.verb]);
  }
  const nudge: BrushTool = {
    says: "Drag what should move a little.",
    draws: BrushMarks,
    radius: () => shape.brush.radius / per(),
    path: () => [],
    cursorAt: () => cursor.value,
    hover,
    down(at) {
      begin(at.stage, at.pressure);
      scene.touched();
    },
    move(at) {
      cursor.value = at.stage;
      for (const some of at.between) lay(some.stage, some.pressure);
      scene.touched();
    },
    up: end,
    cancel() {
      const was = under !== null;
      under = null;
      path.value = [];
      if (was) scene.restore();
      return was;
    },
    // without a pointer: a dab; what carries, carries toward the middle
    key(at) {
      const { left, top, width, height } = hand.frame.value;
      const spot = { x: left + at.x * width, y: top + at.y * height };
      begin(spot, 1);
      if (shape.brush.verb === "carry") {
        const by = shape.brush.radius / per() / 3;
        lay({ x: spot.x + Math.sign(0.5 - at.x) * by, y: spot.y + Math.sign(0.5 - at.y) * by }, 1);
      }
      void end();
    },
    busy: () => under !== null,
  };
  return { bend, pin, "pull nearer": pull, nudge };
}
