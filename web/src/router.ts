import { createRouter, createWebHistory } from "vue-router";

import { me } from "./api/client";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", component: () => import("./views/GatherStation.vue") },
    { path: "/sign-in", component: () => import("./views/SignIn.vue") },
    {
      path: "/:station(ground|light)/:sceneId",
      component: () => import("./views/SceneStation.vue"),
      props: (to) => ({
        sceneId: to.params.sceneId,
        station: to.params.station === "ground" ? "Ground" : "Light",
      }),
    },
    { path: "/:rest(.*)*", redirect: "/" },
  ],
});

router.beforeEach(async (to) => {
  if (to.path === "/sign-in") return true;
  return (await me()) === null ? { path: "/sign-in", query: { next: to.fullPath } } : true;
});
