/** All frames of an outing: the server sends some at a time. */
import { client, need, type Schemas } from "./client";

type Frame = Schemas["FrameLine"];

/** In the order in which they were taken; `until`: stop with the page that holds such a one. Raises a Refusal. */
export async function framesOf(outing: string, until?: (frame: Frame) => boolean): Promise<Frame[]> {
  const all: Frame[] = [];
  for (;;) {
    const params = { path: { outing_id: outing }, query: { after: all.length } };
    const page = await need(client.GET("/api/outings/{outing_id}/frames", { params }));
    all.push(...page);
    if (!page.length || (until && page.some(until))) return all;
  }
}
