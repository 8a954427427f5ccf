/** The focus goes to the heading of the page that was opened, so that who hears the page is told where they are. */
const WAITED = 3_000; // ms for a page to have its heading

/** Once it is there, unless something on the page has taken the focus by then. */
export function focusHeading(): void {
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
