/** Strokes laid down on the picture for the open Hand ingredient. */
import { computed, ref } from "vue";

import type { IngredientLine, Schemas } from "../../api/client";
import { onPicture, type Spot } from "../../model/plane";
import type { Place } from "../../picture/pointer";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import BrushMarks from "../BrushMarks.vue";
import type { Hand, Tool } from "../tool";

type Stroke = Schemas["Stroke"];
interface Brush {
  strokes: Stroke[];
  size: number;
  soft: number;
  flow: number;
}
/** The brush that marks what belongs to a found thing; its strokes need only touch it. */
const MARKER = { size: 0.006, soft: 0, flow: 1 };

const WORDS: Record<string, string> = {
  erase: "Erase by hand",
  mark: "Mark what belongs",
  unmark: "Mark what does not",
};

/** Numbers a stroke may hold: three to a point. */
const MOST = 9000;

/** A stroke too long for one, in several; each goes on from the last point of the one before. */
export function parted(points: number[], most = MOST): number[][] {
  const parts = [];
  for (let first = 0; first === 0 || first < points.length - 3; first += most - 3)
    parts.push(points.slice(first, first + most));
  return parts;
}

export interface BrushTool extends Tool {
  /** The brush's radius on the stage, px; the stroke under way; where the brush is. */
  radius(): number;
  path(): Spot[];
  cursorAt(): Spot | null;
}

export default function painting(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const line = computed<IngredientLine | null>(
    () => scene.latch?.ingredients.find((i) => i.id === scene.openIngredient) ?? null,
  );
  const brush = computed<Brush | undefined>(() => {
    const params = line.value?.params as (Brush & { marks?: Stroke[] }) | undefined;
    if (params?.marks) return { strokes: params.marks, ...MARKER };
    return line.value?.kind === "hand" ? params : undefined;
  });
  const radius = computed(() => {
    const box = scene.map?.box;
    return brush.value && box ? (brush.value.size * hand.frame.value.width) / (box[2]! - box[0]!) : 0;
  });
  const path = ref<Spot[]>([]);
  let pressures: number[] = [];
  let last: Spot | null = null;
  const cursor = ref<Spot | null>(null);

  function add(at: Spot, pressure: number): void {
    const before = path.value.at(-1);
    if (before && Math.hypot(at.x - before.x, at.y - before.y) < 1.5) return;
    path.value.push(at);
    pressures.push(pressure);
  }
  function down(at: Place): boolean {
    if (!brush.value) return false;
    path.value = [];
    pressures = [];
    // Shift: a straight line from where the last stroke ended
    if (at.shift && last) {
      path.value.push(last);
      pressures.push(1);
    }
    add(at.stage, at.pressure);
    return true;
  }
  function move(at: Place): void {
    cursor.value = at.stage;
    for (const some of at.between) add(some.stage, some.pressure);
  }
  async function up(): Promise<void> {
    const drawn = path.value;
    if (!drawn.length || !brush.value || !scene.plane) return;
    const points = drawn.flatMap((p, n) => {
      const source = scene.plane!.toSource(onPicture(hand.frame.value, p));
      // to a ten-thousandth of a px or so: ten thousand strokes must not weigh more than they say
      return [Number(source.x.toFixed(6)), Number(source.y.toFixed(6)), Number(pressures[n]!.toFixed(2))];
    });
    last = drawn.at(-1)!;
    const { size, soft, flow } = brush.value;
    for (const part of parted(points))
      brush.value.strokes.push({
        points: part, radius: size, soft, flow,
        erase: view.tool === "erase" || view.tool === "unmark", seek: view.tool === "seek",
      }); // prettier-ignore
    // what is marked is there, whatever was said before of what was found
    const params = line.value?.params as { answer?: string } | undefined;
    if (view.tool === "mark" && params?.answer === "no") params.answer = "found";
    await scene.commit(WORDS[view.tool] ?? "Paint by hand");
    if (path.value === drawn) path.value = []; // unless the next one is under way
  }
  function cancel(): boolean {
    const was = path.value.length > 0;
    path.value = [];
    return was;
  }
  const laying = (says: string): BrushTool => ({
    says,
    draws: BrushMarks,
    radius: () => radius.value,
    path: () => path.value,
    cursorAt: () => cursor.value,
    down,
    move,
    hover: (at) => void (cursor.value = at?.stage ?? null),
    up,
    cancel,
  });
  return {
    paint: laying("Paint what the latch holds. Shift paints straight on from the last stroke."),
    seek: laying("Paint along; only what looks like what the brush goes over is held."),
    erase: laying("Erase what was painted."),
    mark: laying("Paint over some of what belongs to it."),
    unmark: laying("Paint over some of what does not."),
  };
}
