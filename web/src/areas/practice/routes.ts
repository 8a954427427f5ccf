import type { RouteRecordRaw } from "vue-router";

export const practice: RouteRecordRaw[] = [
  { path: "/", name: "accounts", meta: { title: "Accounts" }, component: () => import("./AccountsPage.vue") },
];
