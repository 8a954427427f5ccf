/** The keys of the workflow page: those of a line or the words above a lane, and those anywhere on the page. Each has
 * something to click, too; KeysAsk lists them. */
import { useEventListener } from "@vueuse/core";
import { nextTick, type Ref } from "vue";

import { onPaper, TYPING } from "@/ui/keys";
import type { Look } from "./script";
import type { useDraft } from "./useDraft";
import type { useLines } from "./useLines";
import { useUndoKeys } from "./useUndoKeys";
import type { Rehearsing } from "@/areas/workflows/rehearse/useRehearsal";
import { elementOf } from "@/ui/events";

export interface Keyed {
  look: Ref<Look>;
  /** Whether something else stands in the place of the script: a letter of it. */
  away: () => boolean;
  mayWrite: Ref<boolean>;
  headOpen: Ref<boolean>;
  draft: ReturnType<typeof useDraft>;
  lines: ReturnType<typeof useLines>;
  rehearsal: Rehearsing;
  toNotes: () => void;
  paste: () => void;
  mendFirst: () => void;
  nextCheck: () => void;
  publish: () => void;
  ask: (what: "find" | "keys") => void;
  keep: () => void;
}
const ARROWS: Record<string, 1 | -1> = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };

export function useKeys(page: Keyed) {
  const { look, mayWrite, draft, lines, rehearsal } = page;
  const { selected, chosen, select } = lines;

  /** Keys while a line or the words above a lane have the focus. */
  function onScriptKey(event: KeyboardEvent): void {
    const target = elementOf(event);
    if (!target) return;
    if (target.closest(`${TYPING}, [role='dialog']`)) return;
    const id = selected.value;
    const onLine = target.classList.contains("line") || target.classList.contains("lane-head");
    const control = event.ctrlKey || event.metaKey;
    const write = look.value === "write" && mayWrite.value;
    const by = ARROWS[event.key];
    const across = event.key === "ArrowLeft" || event.key === "ArrowRight";
    if (by && !across) {
      if (event.altKey && write && chosen.value.size) lines.move(by);
      else lines.go(by, event.shiftKey);
    } else if (by && event.altKey && write) lines.moveLane(by);
    else if (event.key === "Escape") select(onLine ? "" : id, !onLine);
    else if (by && look.value === "rehearse") rehearsal.step(by);
    else if (onLine && event.key === "ArrowRight") target.querySelector<HTMLElement>(".part.open")?.focus();
    else if (event.key === "ArrowLeft" && id) select(id, true);
    else if (onLine && event.key === "Enter" && write) lines.addBelow();
    else if (!write) return;
    else if (control && event.key === "v") page.paste();
    else if (!id) return;
    else if (event.key === "Delete" || event.key === "Backspace") lines.remove();
    else if (control && "cx".includes(event.key) && window.getSelection()?.isCollapsed !== false) lines.copy(event.key === "x");
    else if (control || event.altKey) return;
    else if (event.key === "n") page.toNotes();
    else if (event.key === "f") lines.foldHere();
    else return;
    event.preventDefault();
  }

  const actInNotes = (act: string) => document.querySelector<HTMLElement>(`#notes [data-act="${act}"]`)?.click();
  const looking: Record<string, () => void> = {
    1: () => (look.value = "write"),
    2: () => (look.value = "rehearse"),
    3: () => (look.value = "watch"),
    e: () => rehearsal.goToTheEnd(),
  };
  const writing: Record<string, () => void> = {
    m: page.mendFirst,
    c: page.nextCheck,
    h: () => {
      page.headOpen.value = true;
      void nextTick(() => document.querySelector<HTMLElement>(".head .part.open, .head button")?.focus());
    },
    p: page.publish,
    r: () => page.ask("find"),
    k: page.keep,
    // Of the selected line's message: the buttons in the notes.
    t: () => actInNotes("test"),
    w: () => actInNotes("wording"),
    n: () => actInNotes("next"),
  };
  /** Keys anywhere on the page. */
  function onPageKey(event: KeyboardEvent): void {
    const target = elementOf(event);
    if (!target || page.away()) return;
    if (target.closest("[role='dialog']")) return;
    // By the key itself: with Alt, some keyboards write another letter.
    const key = event.code.replace(/^(Key|Digit)/, "").toLowerCase();
    const act = event.altKey && !event.ctrlKey ? (looking[key] ?? (mayWrite.value ? writing[key] : undefined)) : undefined;
    if (act) {
      event.preventDefault();
      return act();
    }
    if (target.closest("#notes") && event.key === "Escape" && selected.value) return select(selected.value, true);
    if (target.closest(TYPING)) return;
    const by = onPaper(target) ? ARROWS[event.key] : undefined;
    const write = look.value === "write";
    if (event.key === "?") page.ask("keys");
    else if (by && /Up|Down/.test(event.key)) lines.go(by, false);
    else if (by && look.value === "rehearse") rehearsal.step(by);
    else if (!write) return;
    else if (onPaper(target) && event.key === "Enter" && mayWrite.value) lines.addBelow();
    else return;
    event.preventDefault();
  }
  useEventListener(window, "keydown", onPageKey, true);
  useUndoKeys(draft, (event) => {
    const target = elementOf(event);
    return look.value === "write" && !page.away() && !!target && !target.closest(`[role='dialog'], ${TYPING}`);
  });
  return { onScriptKey };
}
