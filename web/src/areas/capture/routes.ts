import type { RouteRecordRaw } from "vue-router";

/** The ways in: pages that stand under People. */
export const capture: RouteRecordRaw[] = [
  { path: "forms", name: "forms", meta: { title: "Forms" }, component: () => import("./FormsPage.vue") },
  { path: "forms/:form(\\d+)", name: "form", meta: { title: "Form" }, component: () => import("./FormPage.vue") },
  { path: "words", name: "words", meta: { title: "Words that come in" }, component: () => import("./WordsPage.vue") },
  { path: "leads", name: "leads", meta: { title: "Leads" }, component: () => import("./LeadsPage.vue") },
  { path: "leads/:source(\\d+)", name: "lead-source", meta: { title: "Source of leads" }, component: () => import("./LeadSourcePage.vue") },
];
