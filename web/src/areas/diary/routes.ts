import type { RouteRecordRaw } from "vue-router";

export const diary: RouteRecordRaw[] = [
  { path: "diary", name: "diary", meta: { area: "diary", title: "Diary" }, component: () => import("./DiaryPage.vue") },
];
