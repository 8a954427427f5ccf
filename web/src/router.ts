/** Addresses: every area stands under its account, so that a link says where it leads. Each page has a title, which the
 * window carries; the focus goes to its heading, so that who hears the page is told where they are. */
import { createRouter, createWebHistory, type RouteRecordRaw } from "vue-router";

declare module "vue-router" {
  interface RouteMeta {
    area?: string;
    title?: string;
  }
}

/** A page of an account. */
function page(area: string, path: string, name: string, title: string, component: () => Promise<unknown>): RouteRecordRaw {
  return { path: `/:account/${path}`, name, meta: { area, title }, component };
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "accounts", meta: { title: "Accounts" }, component: () => import("@/practice/AccountsPage.vue") },
    { path: "/:account", redirect: (to) => `/${to.params.account}/today` },
    page("today", "today", "today", "Today", () => import("@/diary/TodayPage.vue")),
    page("people", "people", "people", "People", () => import("@/people/PeoplePage.vue")),
    page("people", "people/bring-in", "import", "Bring people in", () => import("@/people/ImportPage.vue")),
    page("people", "people/segments", "segments", "Segments", () => import("@/people/SegmentsPage.vue")),
    page("people", "people/quick", "quick", "Quick entry", () => import("@/people/QuickPage.vue")),
    page("people", "people/sorting", "sorting", "Fields, tags and lists", () => import("@/people/SortingPage.vue")),
    page("people", "people/consent", "consent", "Consent", () => import("@/people/ConsentPage.vue")),
    page("people", "people/duplicates", "duplicates", "The same person twice", () => import("@/people/DuplicatesPage.vue")),
    page("people", "people/forms", "forms", "Forms", () => import("@/capture/FormsPage.vue")),
    page("people", "people/forms/:form(\\d+)", "form", "Form", () => import("@/capture/FormPage.vue")),
    page("people", "people/words", "words", "Words that come in", () => import("@/capture/WordsPage.vue")),
    page("people", "people/leads", "leads", "Leads", () => import("@/capture/LeadsPage.vue")),
    page("people", "people/leads/:source(\\d+)", "lead-source", "Source of leads", () => import("@/capture/LeadSourcePage.vue")),
    page("people", "people/:contact(\\d+)", "contact", "Contact", () => import("@/people/ContactPage.vue")),
    page("workflows", "workflows", "workflows", "Workflows", () => import("@/workflows/WorkflowsPage.vue")),
    page("workflows", "workflows/:workflow(\\d+)", "workflow", "Workflow", () => import("@/workflows/WorkflowPage.vue")),
    page("workflows", "workflows/:workflow(\\d+)/versions", "versions", "Versions", () => import("@/workflows/VersionsPage.vue")),
    page("workflows", "workflows/starters", "starters", "Starters", () => import("@/workflows/StartersPage.vue")),
    page("workflows", "workflows/uses", "uses", "What names what", () => import("@/workflows/UsesPage.vue")),
    page("workflows", "workflows/waits", "aside", "Waits", () => import("@/workflows/AsidePage.vue")),
    page("diary", "diary", "diary", "Diary", () => import("@/diary/DiaryPage.vue")),
    page("outside", "outside", "outside", "Outside", () => import("@/outside/OutsidePage.vue")),
    { path: "/:rest(.*)*", name: "nowhere", meta: { title: "Nowhere" }, component: () => import("@/frame/NowherePage.vue") },
  ],
});

/** The window's title: the page, or what it is about, and the account. */
export function entitle(title: string, account = ""): void {
  document.title = [title, account, "Bluffside"].filter(Boolean).join(" · ");
}

const WAITED = 3_000; // ms for a page to have its heading
/** Gives the focus to the page's heading once it is there, unless something on the page has taken it by then. */
function focusHeading(): void {
  const until = Date.now() + WAITED;
  const look = () => {
    const main = document.getElementById("here");
    const held = document.activeElement;
    if (held && held !== document.body && held !== main && main?.contains(held)) return;
    const heading = main?.querySelector<HTMLElement>("h1");
    if (!heading) return void (Date.now() < until && window.setTimeout(look, 50));
    heading.tabIndex = -1;
    heading.focus({ preventScroll: true });
  };
  look();
}
router.afterEach((to, from) => {
  entitle(to.meta.title ?? "");
  if (from.matched.length && to.path !== from.path) focusHeading();
});

const RELOADED = "bluffside-reloaded";
/** A new version was put up, and a piece of the old one is not there any more: the page wanted is loaded anew, once. */
router.onError((error, to) => {
  if (!/dynamically imported module|Importing a module|error loading/i.test(String(error))) return;
  if (sessionStorage.getItem(RELOADED) === to.fullPath) return;
  sessionStorage.setItem(RELOADED, to.fullPath);
  window.location.assign(to.fullPath);
});
router.isReady().then(() => router.afterEach(() => sessionStorage.removeItem(RELOADED)));
