/** The editor of words with merge fields is loaded once the page has come to rest, or when a line first needs it. */
import { defineAsyncComponent } from "vue";

const load = () => import("./MergeText.vue");
export const MergeText = defineAsyncComponent(load);

export function loadMergeText(): void {
  const rest = window.requestIdleCallback ?? ((then: () => void) => window.setTimeout(then, 200));
  rest(() => load().catch(() => undefined));
}
