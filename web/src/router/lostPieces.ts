/** A new version was put up, and a piece of the old one is not there any more: the page wanted is loaded anew, once. */
import type { Router } from "vue-router";

const RELOADED = "bluffside-reloaded";

export function reloadWhatIsGone(router: Router): void {
  router.onError((error, to) => {
    if (!/dynamically imported module|Importing a module|error loading/i.test(String(error))) return;
    if (sessionStorage.getItem(RELOADED) === to.fullPath) return;
    sessionStorage.setItem(RELOADED, to.fullPath);
    window.location.assign(to.fullPath);
  });
  void router.isReady().then(() => router.afterEach(() => sessionStorage.removeItem(RELOADED)));
}
