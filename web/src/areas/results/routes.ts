import type { RouteRecordRaw } from "vue-router";

export const results: RouteRecordRaw[] = [
  { path: "results", name: "results", meta: { area: "results", title: "Results" }, component: () => import("./ResultsPage.vue") },
  {
    path: "results/workflows/:workflow(\\d+)",
    name: "results-workflow",
    meta: { area: "results", title: "Results of a workflow" },
    component: () => import("./WorkflowResults.vue"),
  },
  {
    path: "results/messages",
    name: "results-messages",
    meta: { area: "results", title: "Results of messages" },
    component: () => import("./MessageResults.vue"),
  },
  {
    path: "results/team",
    name: "results-team",
    meta: { area: "results", title: "What the team did" },
    component: () => import("./TeamResults.vue"),
  },
  {
    path: "results/sources",
    name: "results-sources",
    meta: { area: "results", title: "Where people came from" },
    component: () => import("./SourceResults.vue"),
  },
];
