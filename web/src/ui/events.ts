/** What an event of the browser came from, looked at rather than taken for something. */

/** The element, where it is one. */
export function elementOf(event: Event): HTMLElement | undefined {
  return event.target instanceof HTMLElement ? event.target : undefined;
}

/** What stands in the field; "" where it is none. */
export function valueOf(event: Event): string {
  const { target } = event;
  return target instanceof HTMLInputElement || target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement
    ? target.value
    : "";
}

export function isChecked(event: Event): boolean {
  return event.target instanceof HTMLInputElement && event.target.checked;
}

export function filesOf(event: Event): FileList | null {
  return event.target instanceof HTMLInputElement ? event.target.files : null;
}
