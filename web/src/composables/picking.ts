/** Places pointed at on the picture: something neutral, or a colour for the open Colour ingredient. */
import { client, need, type IngredientLine } from "../api/client";
import type { Ref } from "vue";

import type { Frame, Spot } from "../model/plane";
import { useScene } from "../stores/scene";
import { useView, type Tool } from "../stores/view";

/** How wide a patch is read, px of the screen: as wide as a fingertip. */
export const FINGERTIP = 22;

/** `frame`: where the picture lies on the stage. */
export function usePicking(frame: Readonly<Ref<Frame>>) {
  const scene = useScene();
  const view = useView();
  const across = () => Math.min(0.2, FINGERTIP / Math.max(frame.value.width, frame.value.height));

  async function neutral(at: Spot): Promise<void> {
    view.tool = "";
    const light = await need(
      client.POST("/api/scenes/{scene_id}/neutral", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, ...at },
      }),
    );
    await scene.setGround("colour_of_light", { ...light }, "Colour of light picked");
  }

  /** Shows the patch that was taken, and what of it was. */
  function shown<T extends { shown: string }>(at: Spot, got: T): T {
    view.taken = { at, across: across(), shown: got.shown };
    return got;
  }
  /** The leading colour at a place as a latch reads it, or as it would be read now. */
  async function sampled(latch: string, at: Spot) {
    const got = await need(
      client.POST("/api/scenes/{scene_id}/sample", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, latch, across: across(), ...at },
      }),
    );
    return shown(at, got);
  }

  async function colour(at: Spot, take: boolean): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient && i.kind === "colour");
    if (!line) return;
    const got = await sampled(scene.latch!.id!, at);
    const sample = { at: got.at, l: got.l, a: got.a, b: got.b, take };
    (line.params as unknown as { samples: unknown[] }).samples.push(sample);
    await scene.commit(take ? "A colour picked" : "A colour taken away");
  }

  /** A sample carried elsewhere is picked anew. */
  function again(line: IngredientLine, n: number): void {
    const samples = (line.params as unknown as { samples: { at: Spot; l: number; a: number; b: number }[] })
      .samples;
    const work = async () => {
      const got = await sampled(scene.latch!.id!, scene.plane!.toPicture(samples[n]!.at));
      Object.assign(samples[n]!, { at: got.at, l: got.l, a: got.a, b: got.b });
      await scene.commit("A sample picked elsewhere");
    };
    work().catch((error: Error) => {
      scene.restore();
      scene.notices.tell("picking", error);
    });
  }

  /** A corner of the open Outline, or a place Kin should resemble. Near its first corner an outline ends. */
  async function point(at: Spot, sharp: boolean): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient);
    if (!line || !scene.plane) return;
    const source = scene.plane.toSource(at);
    if (view.tool === "kin") {
      (line.params as unknown as { places: Spot[] }).places.push(source);
      await scene.commit("Pointed at kin");
      return;
    }
    const points = (line.params as unknown as { points: (Spot & { sharp: boolean })[] }).points;
    const first = points.length > 2 ? scene.plane.toPicture(points[0]!) : null;
    if (
      first &&
      Math.hypot((first.x - at.x) * scene.plane.width, (first.y - at.y) * scene.plane.height) <
        0.015 * Math.max(scene.plane.width, scene.plane.height)
    ) {
      view.tool = "";
      return;
    }
    points.push({ ...source, sharp });
    await scene.commit("Outline drawn");
  }

  /** A colour the open line is to spare. */
  async function spare(at: Spot): Promise<void> {
    const key = scene.openMove;
    const line = scene.moves.find((m) => m.id === key) ?? (key ? scene.ground(key) : undefined);
    if (!line) return;
    const got = await sampled("", at);
    const held = line as unknown as { spare: { what: string; colour: { samples: unknown[] } }[] };
    const sample = { at: got.at, l: got.l, a: got.a, b: got.b, take: true };
    const before = held.spare.find((s) => s.what === "colour");
    if (before) before.colour.samples.push(sample);
    else held.spare.push({ what: "colour", colour: { samples: [sample] }, read_at: scene.readAt() } as never);
    await scene.commit("A colour spared");
  }

  /** The leading colour at a place as the open move sees it. */
  async function picked(at: Spot) {
    const got = await need(
      client.POST("/api/scenes/{scene_id}/pick", {
        params: { path: { scene_id: scene.opened!.id } },
        body: { document: scene.current() as never, move: scene.openMove ?? "", across: across(), ...at },
      }),
    );
    return shown(at, got);
  }
  async function hue(at: Spot): Promise<void> {
    const line = scene.moves.find((m) => m.id === scene.openMove);
    const field = scene.lightKinds
      .find((k) => k.kind === line?.kind)
      ?.fields.find((f) => f.name === "anchors");
    if (!line || !field) return;
    const got = await picked(at);
    const fresh = Object.fromEntries((field.items ?? []).map((f) => [f.name, f.default]));
    (line.params as unknown as { anchors: unknown[] }).anchors.push({ ...fresh, picked: got.picked });
    view.tool = "";
    await scene.commit("A colour pointed at");
  }
  async function tone(at: Spot): Promise<void> {
    view.tool = "";
    view.tone((await picked(at)).shown);
  }

  async function wrong(at: Spot): Promise<void> {
    view.tool = "";
    view.wrong = at;
  }

  /** Take a place, if the tool in hand takes places; `sharp` with Shift. A refusal is said. */
  function take(at: Spot, sharp = false): boolean {
    const takers: Partial<Record<Tool, (at: Spot) => Promise<void>>> = {
      neutral,
      hue,
      tone,
      spare,
      wrong,
      sample: (at) => colour(at, true),
      unsample: (at) => colour(at, false),
      corner: (at) => point(at, sharp),
      kin: (at) => point(at, sharp),
    };
    const work = takers[view.tool]?.(at);
    work?.then(
      () => scene.notices.settle("picking"),
      (error: Error) => scene.notices.tell("picking", error),
    );
    return work !== undefined;
  }
  return { take, again };
}
