import type { RouteRecordRaw } from "vue-router";

/** Pages that stand under the area's links; the ways in (areas/capture) come after them. */
export function people(waysIn: RouteRecordRaw[]): RouteRecordRaw[] {
  const meta = { area: "people" };
  return [
    { path: "people/:contact(\\d+)", name: "contact", meta: { ...meta, title: "Contact" }, component: () => import("./ContactPage.vue") },
    {
      path: "people",
      meta,
      component: () => import("./PeopleArea.vue"),
      children: [
        { path: "", name: "people", meta: { title: "Everybody" }, component: () => import("./PeoplePage.vue") },
        { path: "bring-in", name: "import", meta: { title: "Bring people in" }, component: () => import("./ImportPage.vue") },
        { path: "segments", name: "segments", meta: { title: "Segments" }, component: () => import("./SegmentsPage.vue") },
        { path: "quick", name: "quick", meta: { title: "Quick entry" }, component: () => import("./QuickPage.vue") },
        { path: "sorting", name: "sorting", meta: { title: "Fields, tags and lists" }, component: () => import("./SortingPage.vue") },
        {
          path: "duplicates",
          name: "duplicates",
          meta: { title: "The same person twice" },
          component: () => import("./DuplicatesPage.vue"),
        },
        ...waysIn,
      ],
    },
  ];
}
