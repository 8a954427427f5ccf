import type { RouteRecordRaw } from "vue-router";

export const deals: RouteRecordRaw[] = [
  { path: "deals", name: "deals", meta: { area: "deals", title: "Deals" }, component: () => import("./DealsPage.vue") },
  { path: "deals/list", name: "deals-list", meta: { area: "deals", title: "Deals, a list" }, component: () => import("./DealsList.vue") },
  {
    path: "deals/coming",
    name: "deals-coming",
    meta: { area: "deals", title: "What deals will bring" },
    component: () => import("./ComingPage.vue"),
  },
  {
    path: "deals/:deal(\\d+)",
    name: "deal",
    meta: { area: "deals", title: "A deal" },
    component: () => import("./DealPage.vue"),
  },
];
