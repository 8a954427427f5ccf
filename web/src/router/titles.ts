/** The window's title: what the page is about by its own name, the area, the account. "Rosa Marsh · People · Saltmarsh Sailing". */
import { ref, watchEffect } from "vue";
import type { RouteLocationNormalizedLoaded } from "vue-router";

/** The name of what the page shows (a contact, a workflow), "" for a page that is about itself. */
export const subject = ref("");

export function useSubject(name: () => string | undefined): void {
  watchEffect(() => (subject.value = name() ?? ""));
}

export function entitle(route: RouteLocationNormalizedLoaded, area = "", account = ""): void {
  const words = [subject.value || route.meta.title, area, account, "Bluffside"].filter(Boolean);
  document.title = [...new Set(words)].join(" · ");
}
