/** Addresses: every area stands under its account, so that a link says where it leads. */
import { createRouter, createWebHistory } from "vue-router";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "accounts", component: () => import("@/practice/AccountsPage.vue") },
    { path: "/:account", redirect: (to) => `/${to.params.account}/today` },
    { path: "/:account/today", name: "today", component: () => import("@/diary/TodayPage.vue") },
    { path: "/:account/people", name: "people", component: () => import("@/people/PeoplePage.vue") },
    { path: "/:account/people/bring-in", name: "import", component: () => import("@/people/ImportPage.vue") },
    { path: "/:account/people/segments", name: "segments", component: () => import("@/people/SegmentsPage.vue") },
    { path: "/:account/people/quick", name: "quick", component: () => import("@/people/QuickPage.vue") },
    { path: "/:account/people/sorting", name: "sorting", component: () => import("@/people/SortingPage.vue") },
    { path: "/:account/people/consent", name: "consent", component: () => import("@/people/ConsentPage.vue") },
    { path: "/:account/people/duplicates", name: "duplicates", component: () => import("@/people/DuplicatesPage.vue") },
    { path: "/:account/people/forms", name: "forms", component: () => import("@/capture/FormsPage.vue") },
    { path: "/:account/people/forms/:form(\\d+)", name: "form", component: () => import("@/capture/FormPage.vue") },
    { path: "/:account/people/words", name: "words", component: () => import("@/capture/WordsPage.vue") },
    { path: "/:account/people/leads", name: "leads", component: () => import("@/capture/LeadsPage.vue") },
    { path: "/:account/people/leads/:source(\\d+)", name: "lead-source", component: () => import("@/capture/LeadSourcePage.vue") },
    { path: "/:account/people/:contact(\\d+)", name: "contact", component: () => import("@/people/ContactPage.vue") },
    { path: "/:account/workflows", name: "workflows", component: () => import("@/workflows/WorkflowsPage.vue") },
    { path: "/:account/workflows/:workflow(\\d+)", name: "workflow", component: () => import("@/workflows/WorkflowPage.vue") },
    { path: "/:account/workflows/:workflow(\\d+)/versions", name: "versions", component: () => import("@/workflows/VersionsPage.vue") },
    { path: "/:account/workflows/starters", name: "starters", component: () => import("@/workflows/StartersPage.vue") },
    { path: "/:account/workflows/uses", name: "uses", component: () => import("@/workflows/UsesPage.vue") },
    { path: "/:account/workflows/waits", name: "aside", component: () => import("@/workflows/AsidePage.vue") },
    { path: "/:account/diary", name: "diary", component: () => import("@/diary/DiaryPage.vue") },
    { path: "/:account/outside", name: "outside", component: () => import("@/outside/OutsidePage.vue") },
    { path: "/:rest(.*)*", name: "nowhere", component: () => import("@/frame/NowherePage.vue") },
  ],
});
