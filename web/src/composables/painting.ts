/** Strokes laid down on the picture for the open Hand ingredient. */
import { computed, ref, type Ref } from "vue";

import type { IngredientLine } from "../api/client";
import { onPicture, type Frame, type Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { BRUSHES, useView } from "../stores/view";

interface Stroke {
  points: number[];
}
interface Brush {
  strokes: Stroke[];
  size: number;
  soft: number;
  flow: number;
}
/** The brush that marks what belongs to a found thing; its strokes need only touch it. */
const MARKER = { size: 0.006, soft: 0, flow: 1 };

const WORDS: Record<string, string> = {
  erase: "Erased by hand",
  mark: "Marked what belongs to it",
  unmark: "Marked what does not",
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

/** `place` turns a pointer event into a place on the stage. */
export function usePainting(frame: Ref<Frame>, place: (e: PointerEvent) => Spot) {
  const scene = useScene();
  const view = useView();
  const line = computed<IngredientLine | null>(
    () => scene.latch?.ingredients.find((i) => i.id === scene.openIngredient) ?? null,
  );
  const hand = computed<Brush | undefined>(() => {
    const params = line.value?.params as unknown as (Brush & { marks?: Stroke[] }) | undefined;
    if (params?.marks) return { strokes: params.marks, ...MARKER };
    return line.value?.kind === "hand" ? params : undefined;
  });
  const painting = computed(() => hand.value !== undefined && BRUSHES.includes(view.tool));
  /** The brush's radius on the stage, px. */
  const radius = computed(() => {
    const box = scene.map?.box;
    return hand.value && box ? (hand.value.size * frame.value.width) / (box[2]! - box[0]!) : 0;
  });
  const path = ref<Spot[]>([]);
  let pressures: number[] = [];
  let last: Spot | null = null;
  const cursor = ref<Spot | null>(null);

  function add(e: PointerEvent): void {
    const at = place(e);
    const before = path.value.at(-1);
    if (before && Math.hypot(at.x - before.x, at.y - before.y) < 1.5) return;
    path.value.push(at);
    // a mouse knows no pressure and says 0.5
    pressures.push(e.pointerType === "pen" ? Math.max(0.05, e.pressure) : 1);
  }
  function begin(e: PointerEvent): void {
    path.value = [];
    pressures = [];
    // Shift: a straight line from where the last stroke ended
    if (e.shiftKey && last) {
      path.value.push(last);
      pressures.push(1);
    }
    add(e);
  }
  function move(e: PointerEvent): void {
    cursor.value = place(e);
    if (!path.value.length || !(e.buttons & 1)) return;
    for (const some of e.getCoalescedEvents?.() ?? [e]) add(some);
  }
  async function end(): Promise<void> {
    const drawn = path.value;
    if (!drawn.length || !hand.value || !scene.plane) return;
    const points = drawn.flatMap((p, n) => {
      const source = scene.plane!.toSource(onPicture(frame.value, p));
      // to a ten-thousandth of a px or so: ten thousand strokes must not weigh more than they say
      return [Number(source.x.toFixed(6)), Number(source.y.toFixed(6)), Number(pressures[n]!.toFixed(2))];
    });
    last = drawn.at(-1)!;
    const { size, soft, flow } = hand.value;
    for (const part of parted(points))
      hand.value.strokes.push({
        points: part, radius: size, soft, flow,
        erase: view.tool === "erase" || view.tool === "unmark", seek: view.tool === "seek",
      } as never); // prettier-ignore
    await scene.commit(WORDS[view.tool] ?? "Painted by hand");
    if (path.value === drawn) path.value = []; // unless the next one is under way
  }
  function cancel(): boolean {
    const was = path.value.length > 0;
    path.value = [];
    return was;
  }
  return { painting, radius, path, cursor, begin, move, end, cancel };
}
