import type { RouteRecordRaw } from "vue-router";

export const today: RouteRecordRaw[] = [
  { path: "today", name: "today", meta: { area: "today", title: "Today" }, component: () => import("./TodayPage.vue") },
];
