/** The outing on Gather's table: its frames, what is done with them, and what can be taken back. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { client, need, type Schemas } from "../api/client";
import type { Frame, Group, Sorting } from "../model/gather";
import type { Spot } from "../model/plane";
import { useArrivals } from "./arrivals";
import { useJob } from "./job";
import { useNaming } from "./naming";
import { useRemoval, type Removed } from "./removal";

export type Outing = Schemas["OutingOut"];

/** `asked`: the outing in the address; the newest where there is none. */
export function useOuting(asked: () => string | undefined) {
  const router = useRouter();
  const queries = useQueryClient();
  const { data: outings, error } = useQuery({
    queryKey: ["outings"],
    queryFn: () => need(client.GET("/api/outings")),
    retry: 1,
  });
  const outing = computed(() => outings.value?.find((o) => o.id === asked()) ?? outings.value?.[0] ?? null);
  const refused = ref("");
  const renew = () => queries.invalidateQueries({ queryKey: ["outings"] });
  const go = (id: string | null) => router.replace(id ? `/outing/${id}` : "/");

  /** Put what the server says of an outing in place of what is shown. */
  function take(next: Outing): void {
    queries.setQueryData<Outing[]>(["outings"], (all) =>
      all?.map((o) => {
        if (o.id !== next.id) return o;
        // the server sends the first frames; those that were sent later stay
        const sent = new Set(next.frames.map((f) => f.id));
        const later = next.frames.length < next.count ? o.frames.filter((f) => !sent.has(f.id)) : [];
        return { ...next, frames: [...next.frames, ...later].slice(0, next.count) };
      }),
    );
  }
  async function tried(work: () => Promise<unknown>): Promise<void> {
    refused.value = "";
    try {
      await work();
    } catch (refusal) {
      refused.value = (refusal as Error).message;
    }
  }

  /** The outing frames go to; the first one is begun without asking. */
  async function here(): Promise<string> {
    if (outing.value) return outing.value.id;
    const made = await need(client.POST("/api/outings", { body: { name: "My first outing" } }));
    await renew();
    return made.id;
  }
  const begun = (name: string) =>
    tried(async () => {
      const made = await need(client.POST("/api/outings", { body: { name } }));
      await renew();
      await go(made.id);
    });
  const recognise = () =>
    tried(async () => {
      const path = { outing_id: await here() };
      take(await need(client.POST("/api/outings/{outing_id}/recognise", { params: { path } })));
    });
  const arriving = useArrivals(here, renew, recognise);
  const reading = useJob(renew, renew);
  /** Read a folder where it lies; true once that has begun. */
  async function read(folder: string): Promise<boolean> {
    await tried(async () => {
      const path = { outing_id: await here() };
      const body = { folder };
      await reading.start(need(client.POST("/api/outings/{outing_id}/folder", { params: { path }, body })));
    });
    return !refused.value && !reading.problem.value;
  }

  const sort = (frame: Frame, sorting: Sorting) =>
    tried(async () => {
      const path = { frame_id: frame.id };
      const body = { sorting };
      const next = await need(client.PATCH("/api/frames/{frame_id}", { params: { path }, body }));
      const of = outing.value;
      if (of) take({ ...of, frames: of.frames.map((f) => (f.id === next.id ? next : f)) });
    });
  /** What made one stop: a place of the frame, fractions of it. */
  const stopped = (frame: Frame, at: Spot | null) =>
    tried(async () => {
      const path = { frame_id: frame.id };
      const next = await need(
        client.PUT("/api/frames/{frame_id}/stopped", { params: { path }, body: { at } }),
      );
      const of = outing.value;
      if (of) take({ ...of, frames: of.frames.map((f) => (f.id === next.id ? next : f)) });
    });
  const together = (frames: string[], kind: "sweep" | "bracket" | "twin" | "none") =>
    tried(async () => {
      const path = { outing_id: outing.value!.id };
      const body = { frames, kind };
      take(await need(client.POST("/api/outings/{outing_id}/groups", { params: { path }, body })));
    });
  const apart = (group: Group) =>
    tried(async () => {
      take(await need(client.DELETE("/api/groups/{group_id}", { params: { path: { group_id: group.id } } })));
    });
  const scene = (frame: Frame) =>
    tried(async () => {
      const path = { frame_id: frame.id };
      const body = { name: "" };
      const made = await need(client.POST("/api/frames/{frame_id}/scenes", { params: { path }, body }));
      await router.push(`/ground/${made.id}`);
    });

  const removal = useRemoval(renew);
  const remove = (what: Removed["what"], ids: string[]) =>
    tried(async () => {
      await removal.remove(what, ids);
      if (what === "outing") await go(null);
    });
  const takeBack = (things: Removed[]) => tried(() => removal.takeBack(things));
  const naming = useNaming(renew);
  const rename = (name: string) => tried(() => naming.give(name));
  const nameBack = () => tried(naming.back);

  let loading = false;
  /** Fetch the next of the frames that were not sent with the outing. */
  const loadMore = () =>
    tried(async () => {
      const of = outing.value;
      if (!of || loading || of.frames.length >= of.count) return;
      loading = true;
      try {
        const params = { path: { outing_id: of.id }, query: { after: of.frames.length } };
        const next = await need(client.GET("/api/outings/{outing_id}/frames", { params }));
        take({ ...of, frames: [...of.frames, ...next] });
      } finally {
        loading = false;
      }
    });
  /** All of them are sent, some at a time: so counts are right, and what is asked for next is there. */
  watch(
    () => {
      const of = outing.value;
      return of && of.frames.length < of.count ? `${of.id} ${of.frames.length}` : "";
    },
    (left) => left && void loadMore(),
    { immediate: true },
  );

  const problem = computed(
    () => refused.value || reading.problem.value || (error.value ? error.value.message : ""),
  );
  return {
    outings, outing, problem, renew, go, tried, here, begun, arriving, reading, read,
    sort, stopped, together, apart, scene, removal, remove, takeBack, naming, rename, nameBack, loadMore,
  }; // prettier-ignore
}
export type AtOuting = ReturnType<typeof useOuting>;
