/** What is taken out, in hand: specks, strokes that heal or clone, wires, outlines to be regrown or hidden. */
import { ref, watch } from "vue";

import { onPicture, type Spot } from "../../model/plane";
import { liesOn, type Area } from "../../model/repairs";
import type { Place } from "../../picture/pointer";
import { useMend, type Limit } from "../../stores/mend";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import BrushMarks from "../BrushMarks.vue";
import OutlineDrawn from "../OutlineDrawn.vue";
import type { Hand, Tool } from "../tool";
import type { BrushTool } from "./painting";

export interface OutlineTool extends Tool {
  /** The outline being drawn, on the stage; places pointed at so far. */
  line(): Spot[];
  places(): Spot[];
}
/** Px of the stage between points of a stroke or an outline. */
const APART = 2;
/** Px of the stage by which a repair may be missed. */
const SLACK = 5;
/** Points an outline keeps, at most. */
const KEPT = 400;

export default function mending(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const mend = useMend();
  const path = ref<Spot[]>([]);
  const cursor = ref<Spot | null>(null);
  let pressures: number[] = [];
  /** Where the wire under way was pointed at, source coordinates; and the repair that came of it. */
  const clicks = ref<Spot[]>([]);
  let traced = "";
  /** Rises where a wire ends. */
  let chain = 0;
  function ended(): void {
    path.value = [];
    clicks.value = [];
    traced = "";
    chain++;
  }
  watch(() => scene.opened?.id, ended);

  const radius = () => {
    const box = scene.map?.box;
    return box ? (mend.brush.size * hand.frame.value.width) / (box[2]! - box[0]!) : 0;
  };
  const toSource = (p: Spot) => scene.plane!.toSource(onPicture(hand.frame.value, p));
  const short = (v: number) => Number(v.toFixed(6));
  function add(at: Spot, pressure: number): void {
    const before = path.value.at(-1);
    if (before && Math.hypot(at.x - before.x, at.y - before.y) < APART) return;
    path.value.push(at);
    pressures.push(pressure);
  }
  function down(at: Place): void {
    path.value = [];
    pressures = [];
    add(at.stage, at.pressure);
  }
  function move(at: Place): void {
    cursor.value = at.stage;
    for (const some of at.between) add(some.stage, some.pressure);
  }
  function cancel(): boolean {
    const was = path.value.length > 0 || clicks.value.length > 0;
    mend.dropSketch();
    mend.leaveWire();
    ended();
    return was;
  }
  const hover = (at: Place | null) => void (cursor.value = at?.stage ?? null);
  const common = { down, move, hover, cancel, busy: () => mend.doing.length > 0 || path.value.length > 0 };

  function areaDrawn(): Area {
    const points = path.value.slice(0, 3000).flatMap((p, n) => {
      const { x, y } = toSource(p);
      return [short(x), short(y), Number(pressures[n]!.toFixed(2))];
    });
    const { size, soft } = mend.brush;
    const stroke = { points, radius: size, soft, flow: 1, erase: false, seek: false };
    return { strokes: [stroke], outline: [], mask: null };
  }
  async function stroked(kind: "heal" | "clone"): Promise<void> {
    const drawn = path.value;
    if (!drawn.length || !scene.plane) return;
    await mend.stroke(kind, areaDrawn());
    if (path.value === drawn) path.value = [];
  }
  const at = (spot: Spot): Place => {
    const { left, top, width, height } = hand.frame.value;
    const stage = { x: left + spot.x * width, y: top + spot.y * height };
    return { stage, shift: false, pressure: 1, between: [] };
  };
  const brush = (kind: "heal" | "clone", says: string): BrushTool => ({
    ...common,
    says,
    draws: BrushMarks,
    radius,
    // what the picture shows already needs no mark
    path: () => path.value.slice(Math.max((mend.draft?.points ?? 0) - 1, 0)),
    cursorAt: () => cursor.value,
    move(at) {
      move(at);
      if (path.value.length && scene.plane) mend.sketch(kind, areaDrawn());
    },
    up: () => stroked(kind),
    key(spot) {
      down(at(spot));
      void stroked(kind);
    },
  });
  const speck: BrushTool = {
    ...common,
    says: "Point at a speck; at one that is ringed, to leave it as it is.",
    draws: BrushMarks,
    radius,
    path: () => [],
    cursorAt: () => cursor.value,
    async up() {
      const spot = path.value[0];
      path.value = [];
      if (spot && scene.plane) await mend.speck(toSource(spot), mend.brush.size);
    },
    key: (spot) => void mend.speck(scene.plane!.toSource(spot), mend.brush.size),
  };

  async function pointed(spot: Spot): Promise<void> {
    const mine = chain;
    clicks.value = [...clicks.value, spot];
    if (clicks.value.length < 2) return;
    const made = await mend.wire(clicks.value, traced);
    if (made && mine === chain) traced = made;
  }
  const wire: OutlineTool = {
    ...common,
    says: "Point at both ends of a wire, or at places along it.",
    draws: OutlineDrawn,
    line: () => [],
    places: () =>
      clicks.value.map((p) => {
        const on = scene.plane!.toPicture(p);
        const { left, top, width, height } = hand.frame.value;
        return { x: left + on.x * width, y: top + on.y * height };
      }),
    async up() {
      const spot = path.value[0];
      path.value = [];
      if (spot && scene.plane) await pointed(toSource(spot));
    },
    key: (spot) => void pointed(scene.plane!.toSource(spot)),
  };

  async function outlined(then: (area: Area) => Promise<void>): Promise<void> {
    const drawn = path.value;
    if (drawn.length < 6 || !scene.plane) {
      path.value = [];
      return;
    }
    const every = Math.max(1, Math.ceil(drawn.length / KEPT));
    const outline = drawn
      .filter((_, n) => n % every === 0)
      .flatMap((p) => {
        const { x, y } = toSource(p);
        return [short(x), short(y)];
      });
    await then({ strokes: [], outline, mask: null });
    if (path.value === drawn) path.value = [];
  }
  const outline = (then: (area: Area) => Promise<void>, says: string): OutlineTool => ({
    ...common,
    says,
    draws: OutlineDrawn,
    line: () => path.value,
    places: () => [],
    up: () => outlined(then),
    // without a pointer: a square as large as the brush
    key(spot) {
      const { x, y } = scene.plane!.toSource(spot);
      const r = mend.brush.size;
      const square = [x - r, y - r, x + r, y - r, x + r, y + r, x - r, y + r].map(short);
      void then({ strokes: [], outline: square, mask: null });
    },
  });
  /** What the open Regrow may be grown from, or what never: outlined once, then the hand is free again. */
  const limit = (what: Limit, says: string): OutlineTool => ({
    ...outline(async (area) => {
      view.tool = "";
      if (mend.open) await mend.limit(mend.open, what, area);
    }, says),
  });
  /** The last repair that lies at a place of the stage. */
  const lyingAt = (p: Spot) => {
    if (!scene.plane || !scene.map) return undefined;
    const at = toSource(p);
    const slack = (SLACK * mend.brush.size) / Math.max(radius(), 1e-6);
    return mend.repairs.findLast((r) => liesOn(r, at, slack));
  };
  /** With nothing in hand: what is pointed at is ringed, what is pressed opens. */
  const pick: Tool = {
    ready: () => view.station === "Mend" && !view.comparing && mend.repairs.length > 0,
    get cursor() {
      return mend.pointed ? "pointer" : undefined;
    },
    hover: (at) => void (mend.pointed = (at && lyingAt(at.stage)?.id) || ""),
    down(at) {
      const found = lyingAt(at.stage);
      if (!found) return false;
      scene.openMove = found.id;
      return true;
    },
  };
  return {
    pick,
    speck,
    heal: brush("heal", "Paint over what distracts; where its texture comes from is found."),
    clone: brush("clone", "Paint over it with another place; its other end can be dragged."),
    wire,
    regrow: outline(mend.regrow, "Outline roughly what should go."),
    "grow from": limit("source", "Outline what it may be grown from."),
    "never from": limit("spared", "Outline what it must not be grown from."),
    hide: outline(mend.hide, "Outline a thing, to look at the picture without it."),
  };
}
