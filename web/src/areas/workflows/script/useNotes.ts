/** The notes column follows what is selected, and takes the focus when somebody goes to it. */
import { refDebounced } from "@vueuse/core";
import type { Ref } from "vue";

const REST = 70; // ms
const TRIES = 60; // frames; the editor of messages may still be on its way

export function useNotes(selected: Ref<string>) {
  /** What the notes are about: the selection, once it rests, so that going from line to line costs nothing. */
  const noted = refDebounced(selected, REST);

  /** To the field of that name there, else to the first one. */
  function toNotes(field = "", tries = TRIES, from = document.activeElement): void {
    requestAnimationFrame(() => {
      if (document.activeElement !== from && document.activeElement !== document.body) return; // somebody went elsewhere meanwhile
      const there =
        noted.value === selected.value &&
        (!document.querySelector("#notes [data-field]") || document.querySelector("#notes [contenteditable]"));
      if (tries && !there) return toNotes(field, tries - 1, from); // the notes follow a moment later
      const place =
        (field && document.querySelector(`#notes [data-field="${field}"]`)) ||
        document.querySelector("#notes [data-field]") ||
        document.querySelector("#notes");
      const name = place?.querySelector<HTMLInputElement>(".name input");
      // A message that has its name already is written on in its words.
      const target =
        (name && !name.value ? name : undefined) ??
        place?.querySelector<HTMLElement>("[contenteditable='true']") ??
        place?.querySelector<HTMLElement>("input, button, summary");
      target?.focus();
    });
  }
  return { noted, toNotes };
}
