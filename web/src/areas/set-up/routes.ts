import type { RouteRecordRaw } from "vue-router";

export const setUp: RouteRecordRaw[] = [
  {
    path: "set-up",
    meta: { area: "set-up" },
    component: () => import("./SetUpArea.vue"),
    children: [
      { path: "", name: "set-up", meta: { title: "The business" }, component: () => import("./BusinessPage.vue") },
      { path: "brand", name: "brand", meta: { title: "Brand" }, component: () => import("./BrandPage.vue") },
      { path: "senders", name: "senders", meta: { title: "Senders" }, component: () => import("./SendersPage.vue") },
      { path: "hours", name: "hours", meta: { title: "Hours and days off" }, component: () => import("./HoursPage.vue") },
      { path: "rules", name: "rules", meta: { title: "House rules" }, component: () => import("./RulesPage.vue") },
      { path: "consent", name: "consent", meta: { title: "Consent" }, component: () => import("./ConsentPage.vue") },
      {
        path: "appointments",
        name: "appointments",
        meta: { title: "Appointments" },
        component: () => import("./AppointmentsPage.vue"),
      },
      {
        path: "assistant",
        name: "booking-assistant",
        meta: { title: "Booking assistant" },
        component: () => import("./AssistantPage.vue"),
      },
      { path: "pipelines", name: "pipelines", meta: { title: "Pipelines" }, component: () => import("./PipelinesPage.vue") },
      { path: "score", name: "score", meta: { title: "Lead score" }, component: () => import("./ScorePage.vue") },
      { path: "team", name: "team", meta: { title: "The team" }, component: () => import("./TeamPage.vue") },
      { path: "connections", name: "connections", meta: { title: "Connections" }, component: () => import("./ConnectionsPage.vue") },
      { path: "live", name: "live", meta: { title: "Going live" }, component: () => import("./LivePage.vue") },
      { path: "changes", name: "changes", meta: { title: "What changed" }, component: () => import("./ChangesPage.vue") },
    ],
  },
];
