/** Places pointed at: something neutral, a colour for a latch or a move, a corner, what is wrong. */
import { client, need, of, type MoveLine, type Of } from "../../api/client";
import { untilAnswered } from "../../api/line";
import { usePicking } from "../../composables/picking";
import { onPicture, type Spot } from "../../model/plane";
import { useWatched } from "../../stores/watched";
import { useScene } from "../../stores/scene";
import { useView } from "../../stores/view";
import type { Hand, Tool } from "../tool";

export default function pointing(hand: Hand): Record<string, Tool> {
  const scene = useScene();
  const view = useView();
  const { sampled, picked } = usePicking(hand.frame);

  /** What is read at a place; null where the scene was left, or another place pointed at, meanwhile. */
  const asked = <T>(read: () => Promise<T>): Promise<T | null> =>
    scene.errand("pick", async (at) => {
      try {
        const got = await untilAnswered(read, (error) => scene.notices.tell("picking", error), at.here);
        return at.here() ? got : null;
      } catch (error) {
        if (at.here()) throw error;
        return null;
      }
    });

  async function neutral(at: Spot): Promise<void> {
    view.tool = "";
    const light = await asked(() =>
      need(
        client.POST("/api/scenes/{scene_id}/neutral", {
          params: { path: { scene_id: scene.opened!.id } },
          body: { document: scene.current(), ...at },
        }),
      ),
    );
    if (!light) return;
    await scene.setGround("colour_of_light", { ...light }, "Pick colour of light");
  }

  async function colour(at: Spot, take: boolean): Promise<void> {
    const line = scene.latch?.ingredients.find((i) => i.id === scene.openIngredient && i.kind === "colour");
    if (!line) return;
    const got = await asked(() => sampled(scene.latch!.id!, at));
    if (!got) return;
    const sample = { at: got.at, l: got.l, a: got.a, b: got.b, take };
    of(line, "colour").params.samples.push(sample);
    await scene.commit(take ? "Pick colour" : "Exclude colour");
  }

  const openLine = () => scene.latch?.ingredients.find((i) => i.id === scene.openIngredient);
  /** A place Kin should resemble. */
  async function kin(at: Spot): Promise<void> {
    const line = openLine();
    if (!line || !scene.plane) return;
    of(line, "kin").params.places.push(scene.plane.toSource(at));
    await scene.commit("Point at kin");
  }

  /** A corner of the open Outline. Near its first corner an outline ends. */
  async function point(at: Spot, sharp: boolean): Promise<void> {
    const line = openLine();
    if (!line || !scene.plane) return;
    const source = scene.plane.toSource(at);
    const points = of(line, "outline").params.points;
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
    await scene.commit("Draw outline");
  }

  /** A colour the open line is to spare. */
  async function spare(at: Spot): Promise<void> {
    const key = scene.openMove;
    const line = scene.moves.find((m) => m.id === key) ?? (key ? scene.ground(key) : undefined);
    if (!line) return;
    const got = await asked(() => sampled("", at));
    if (!got) return;
    const held = line as { spare: MoveLine["spare"] };
    const sample = { at: got.at, l: got.l, a: got.a, b: got.b, take: true };
    const before = held.spare.find((s) => s.what === "colour");
    if (before) before.colour.samples.push(sample);
    else {
      const fresh = { what: "colour", colour: { samples: [sample] }, read_at: scene.readAt() };
      held.spare.push(fresh as MoveLine["spare"][number]); // the server knows the rest of it
    }
    await scene.commit("Spare colour");
  }

  async function hue(at: Spot): Promise<void> {
    const line = scene.moves.find((m) => m.id === scene.openMove);
    const field = scene.lightKinds
      .find((k) => k.kind === line?.kind)
      ?.fields.find((f) => f.name === "anchors");
    if (!line || !field) return;
    const got = await asked(() => picked(at));
    if (!got) return;
    const fresh = Object.fromEntries((field.items ?? []).map((f) => [f.name, f.default]));
    const anchor = { ...fresh, picked: got.picked } as Of<MoveLine, "hue_steer">["params"]["anchors"][number];
    of(line, "hue_steer").params.anchors.push(anchor);
    view.tool = "";
    await scene.commit("Pick hue");
  }
  async function tone(at: Spot): Promise<void> {
    view.tool = "";
    const got = await asked(() => picked(at));
    if (got) view.tone(got.shown);
  }

  const watched = useWatched();
  async function wrong(at: Spot): Promise<void> {
    view.tool = "";
    view.wrong = at;
  }

  /** A tool that takes a place: where the pointer comes up, so that a second finger makes nothing of it. A refusal is
   * said. */
  function taking(says: string, work: (at: Spot, shift: boolean) => Promise<void>): Tool {
    const take = (at: Spot, shift: boolean) => {
      work(at, shift).then(
        () => scene.notices.settle("picking"),
        (error: Error) => scene.notices.tell("picking", error),
      );
    };
    return {
      says,
      down: () => true,
      up: (at) => take(onPicture(hand.frame.value, at.stage), at.shift),
      key: take,
    };
  }
  return {
    neutral: taking("Point at something that should be neutral grey.", neutral),
    sample: taking("Point at a colour the latch should hold.", (at) => colour(at, true)),
    unsample: taking("Point at a colour it should let go.", (at) => colour(at, false)),
    corner: taking("Click points around it, Shift for a sharp corner; click the first to end.", point),
    spare: taking("Point at a colour the move should spare; several may be pointed at.", spare),
    hue: taking("Point at a colour this move should take hold of.", hue),
    tone: taking("Point at a colour to take.", tone),
    kin: taking("Point at what it should resemble.", kin),
    watch: taking("Point at places to watch: their stops stay beside them.", async (at) => watched.add(at)),
    wrong: taking("Point at what is wrong with the picture.", wrong),
  };
}
