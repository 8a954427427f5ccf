import type { RouteRecordRaw } from "vue-router";

export const deals: RouteRecordRaw[] = [
  { path: "deals", name: "deals", meta: { area: "deals", title: "Deals" }, component: () => import("./DealsPage.vue") },
];
