import type { RouteRecordRaw } from "vue-router";

export const replies: RouteRecordRaw[] = [
  {
    path: "replies/:contact(\\d+)?",
    name: "replies",
    meta: { area: "replies", title: "Replies" },
    component: () => import("./RepliesPage.vue"),
  },
];
