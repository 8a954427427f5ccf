import type { RouteRecordRaw } from "vue-router";

export const outside: RouteRecordRaw[] = [
  { path: "outside", name: "outside", meta: { area: "outside", title: "Outside" }, component: () => import("./OutsidePage.vue") },
];
