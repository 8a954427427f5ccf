import type { RouteRecordRaw } from "vue-router";

export const practice: RouteRecordRaw[] = [
  { path: "/", name: "accounts", meta: { title: "Accounts" }, component: () => import("./AccountsPage.vue") },
  { path: "/myself", name: "myself", meta: { title: "Myself" }, component: () => import("./MyselfPage.vue") },
  { path: "/colleagues", name: "practice-people", meta: { title: "Who works here" }, component: () => import("./PracticePeoplePage.vue") },
];
