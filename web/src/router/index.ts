/** Addresses: every area stands under its account, so that a link says where it leads, and tells its own pages (routes.ts). */
import { createRouter, createWebHistory } from "vue-router";

import { capture } from "@/areas/capture/routes";
import { deals } from "@/areas/deals/routes";
import { replies } from "@/areas/replies/routes";
import { diary } from "@/areas/diary/routes";
import { outside } from "@/areas/outside/routes";
import { people } from "@/areas/people/routes";
import { practice } from "@/areas/practice/routes";
import { results } from "@/areas/results/routes";
import { setUp } from "@/areas/set-up/routes";
import { today } from "@/areas/today/routes";
import { workflows } from "@/areas/workflows/routes";
import { focusHeading } from "./heading";
import { reloadWhatIsGone } from "./lostPieces";
import { subject } from "./titles";

declare module "vue-router" {
  interface RouteMeta {
    area?: string;
    title?: string;
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    ...practice,
    // No accounts: pages for whom nobody knows yet (frame/DoorPages.vue).
    { path: "/:door(begin|join|confirm|new-password|mailbox)", name: "door", component: () => import("@/frame/NowherePage.vue") },
    {
      path: "/:account",
      redirect: { name: "today" },
      children: [...today, ...replies, ...people(capture), ...deals, ...workflows, ...diary, ...results, ...setUp, ...outside],
    },
    { path: "/:rest(.*)*", name: "nowhere", meta: { title: "Nowhere" }, component: () => import("@/frame/NowherePage.vue") },
  ],
});

router.afterEach((to, from) => {
  if (to.path !== from.path) subject.value = "";
  if (from.matched.length && to.path !== from.path) focusHeading();
});
reloadWhatIsGone(router);
