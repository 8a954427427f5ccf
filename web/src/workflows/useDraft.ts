/** The draft being written: changed on copies, undone and redone, saved by itself.
 *
 * Each save says which revision it was written on. When somebody else saved meanwhile, nothing of theirs is overwritten:
 * saving stops, and the page offers to take theirs or to keep ours as a new revision on top. */
import { computed, onUnmounted, ref, shallowRef, toRaw } from "vue";

import { api, ApiError, ok } from "@/api/client";
import type { Doc } from "./document";

const PAUSE = 500; // ms without a change before it is saved
const SAME = 1200; // ms within which changes of one key are undone together

export type SaveState = "kept" | "keeping" | "changed" | "conflict" | "failed";

export function useDraft(account: string, workflow: number, first: Doc, firstRevision: number, firstKept: string) {
  const doc = shallowRef<Doc>(first);
  const revision = ref(firstRevision);
  const state = ref<SaveState>("kept");
  const keptAt = ref(firstKept);
  const fault = ref("");
  const changes = shallowRef<string[]>([]);
  const past = shallowRef<Doc[]>([]);
  const future = shallowRef<Doc[]>([]);
  let lastKey = "";
  let lastAt = 0;
  let timer = 0;
  let saving: Promise<void> | undefined;

  /** Changes a copy of the document. Changes with the same key that follow each other quickly are one to undo. */
  function change(what: (doc: Doc) => void, key = ""): void {
    const copy = structuredClone(toRaw(doc.value));
    what(copy);
    const together = key !== "" && key === lastKey && Date.now() - lastAt < SAME;
    if (!together) past.value = [...past.value, doc.value];
    lastKey = key;
    lastAt = Date.now();
    future.value = [];
    set(copy);
  }
  function undo(): void {
    const before = past.value.at(-1);
    if (!before) return;
    past.value = past.value.slice(0, -1);
    future.value = [...future.value, doc.value];
    lastKey = "";
    set(before);
  }
  function redo(): void {
    const after = future.value.at(-1);
    if (!after) return;
    future.value = future.value.slice(0, -1);
    past.value = [...past.value, doc.value];
    lastKey = "";
    set(after);
  }
  function set(next: Doc): void {
    doc.value = next;
    if (state.value === "conflict") return;
    state.value = "changed";
    window.clearTimeout(timer);
    timer = window.setTimeout(save, PAUSE);
  }

  /** Saves now, if there is anything to save; resolves when it is kept or cannot be. */
  async function save(): Promise<void> {
    window.clearTimeout(timer);
    await saving;
    if (state.value !== "changed" && state.value !== "failed") return;
    const sent = doc.value;
    state.value = "keeping";
    saving = ok(
      api.PUT("/api/accounts/{account}/workflows/{workflow_id}/draft", {
        params: { path: { account, workflow_id: workflow } },
        body: { document: sent, revision: revision.value },
      }),
    )
      .then((saved) => {
        revision.value = saved.revision;
        keptAt.value = saved.local_changed;
        changes.value = saved.changes;
        fault.value = "";
        state.value = doc.value === sent ? "kept" : "changed";
      })
      .catch((error: ApiError) => {
        fault.value = error.message;
        state.value = error.status === 409 ? "conflict" : "failed";
        if (state.value === "failed" && error.status === 0) timer = window.setTimeout(save, 4_000);
      });
    await saving;
    if ((state.value as SaveState) === "changed") timer = window.setTimeout(save, PAUSE);
  }

  /** After a conflict: goes on from what is stored, with ours kept in the undo history; or puts ours on top of it. */
  async function settle(which: "theirs" | "ours"): Promise<void> {
    const stored = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: { account, workflow_id: workflow } } }));
    revision.value = stored.revision;
    fault.value = "";
    if (which === "theirs") {
      past.value = [...past.value, doc.value];
      doc.value = stored.document;
      state.value = "kept";
    } else {
      state.value = "changed";
      await save();
    }
  }

  function beforeLeaving(event: BeforeUnloadEvent): void {
    if (state.value === "kept") return;
    save();
    event.preventDefault();
  }
  window.addEventListener("beforeunload", beforeLeaving);
  onUnmounted(() => {
    window.removeEventListener("beforeunload", beforeLeaving);
    save();
  });

  return { doc, revision, state, keptAt, fault, changes, change, undo, redo, save, settle, canUndo: computed(() => past.value.length > 0), canRedo: computed(() => future.value.length > 0) };
}
