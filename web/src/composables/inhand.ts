/** What was just chosen is in hand: the next drag paints, draws, picks or boxes, without a button to be found. */
import { nextTick } from "vue";

import { useView } from "../stores/view";

/** The tool of an ingredient that is made on the picture. */
const TOOLS: Record<string, string> = {
  hand: "paint",
  outline: "corner",
  colour: "sample",
  subject: "box",
  kin: "kin",
};

export function useInHand() {
  const view = useView();
  /** Take up the tool of a kind; once its row is there, which puts down what the row before had in hand. */
  async function take(kind: string): Promise<void> {
    await nextTick();
    if (TOOLS[kind]) view.tool = TOOLS[kind];
  }
  return { take };
}
