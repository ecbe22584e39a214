import { createRouter, createWebHistory } from "vue-router";

import { me } from "./api/client";
import { slugOf, STATIONS } from "./stations";
import { useSession } from "./stores/session";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/outing/:outingId", component: () => import("./views/GatherStation.vue"), props: true },
    { path: "/", component: () => import("./views/GatherStation.vue") },
    { path: "/guide", component: () => import("./views/GuideView.vue") },
    { path: "/sign-in", component: () => import("./views/SignIn.vue") },
    {
      path: `/:station(${STATIONS.map((s) => slugOf(s.name)).join("|")})/:sceneId`,
      component: () => import("./views/SceneStation.vue"),
      props: true,
    },
    { path: "/:rest(.*)*", redirect: "/" },
  ],
});

router.beforeEach(async (to) => {
  if (to.path === "/sign-in") return true;
  const who = await me();
  const session = useSession();
  if (who) session.name = who;
  // no answer says nothing of being signed in, and work that is not saved is not left
  if (who !== null) return true;
  if (!session.name) return { path: "/sign-in", query: { next: to.fullPath } };
  session.ended = true;
  return true;
});
