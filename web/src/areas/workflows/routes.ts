import type { RouteRecordRaw } from "vue-router";

const meta = { area: "workflows" };
export const workflows: RouteRecordRaw[] = [
  { path: "workflows", name: "workflows", meta: { ...meta, title: "All workflows" }, component: () => import("./WorkflowsPage.vue") },
  {
    path: "workflows/:workflow(\\d+)",
    name: "workflow",
    meta: { ...meta, title: "Workflow" },
    component: () => import("./script/WorkflowPage.vue"),
  },
  {
    path: "workflows/:workflow(\\d+)/versions",
    name: "versions",
    meta: { ...meta, title: "Versions" },
    component: () => import("./versions/VersionsPage.vue"),
  },
  {
    path: "messages",
    name: "messages",
    meta: { area: "messages", title: "Messages" },
    component: () => import("./messages/MessagesPage.vue"),
  },
  {
    path: "messages/:message(\\d+)",
    name: "message",
    meta: { area: "messages", title: "Message" },
    component: () => import("./messages/MessagePage.vue"),
  },
  { path: "workflows/starters", name: "starters", meta: { ...meta, title: "Starters" }, component: () => import("./StartersPage.vue") },
  { path: "workflows/uses", name: "uses", meta: { ...meta, title: "What names what" }, component: () => import("./UsesPage.vue") },
  { path: "workflows/waits", name: "aside", meta: { ...meta, title: "Waits" }, component: () => import("./AsidePage.vue") },
];
