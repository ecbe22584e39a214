/** The camera's turn by the lines that are drawn; a refusal takes the last change back and says why. */
import type { Schemas } from "../api/client";
import { useScene } from "../stores/scene";

export function usePlumb() {
  const scene = useScene();
  const lines = () => scene.ground("plumb").params.lines as Schemas["DrawnLine"][];

  async function solve(words: string): Promise<void> {
    if (!lines().length) return scene.setGround("plumb", { lean: 0, swing: 0, roll: 0 }, words);
    const id = scene.opened?.id;
    const turn = await scene.find<Schemas["Turn"]>("plumb");
    if (!turn) {
      if (scene.opened?.id === id) scene.restore();
      return;
    }
    const three = (v: number) => Math.round(v * 1000) / 1000;
    const { lean, swing, roll } = turn;
    await scene.setGround("plumb", { lean: three(lean), swing: three(swing), roll: three(roll) }, words);
  }
  return { lines, solve };
}
