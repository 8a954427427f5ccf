/** The draft being written: changed by recipes, undone and redone without limit (also after a reload), saved by itself. What
 * could not be saved is there again after a reload, too.
 *
 * Each save says which revision it was written on. When somebody else saved meanwhile nothing is overwritten: both sets of
 * changes are put together (merging.ts), and saved on top of theirs. Only where both changed the same part does saving
 * stop, until somebody says whose stands. While nothing of ours is unsaved, theirs simply appear. */
import { createStore, del, get, set as keep } from "idb-keyval";
import { applyPatches, enablePatches, produceWithPatches, type Patch } from "immer";
import { computed, onUnmounted, ref, shallowRef } from "vue";
import { useEventListener, useIntervalFn } from "@vueuse/core";

import { api, ApiError, ok } from "@/api/client";
import type { Doc } from "./document";
import { plain } from "@/sentences/written";
import { merged, type Clash } from "./merging";

enablePatches();
const PAUSE = 500; // ms without a change before it is saved
const SAME = 1200; // ms within which changes of one key are undone together
const LOOK = 4_000; // ms between looks whether somebody else writes, too

export type SaveState = "kept" | "keeping" | "changed" | "conflict" | "failed";

/** One change, and how it is undone. */
interface Change {
  redo: Patch[];
  undo: Patch[];
}
interface History {
  revision: number;
  past: Change[];
  future: Change[];
}
/** A draft that was not saved, and what it was made from. */
interface Unsaved {
  doc: Doc;
  base: Doc;
}
const histories = createStore("bluffside-undo", "drafts");

export function useDraft(account: string, workflow: number, first: Doc, firstRevision: number, firstKept: string) {
  const doc = shallowRef<Doc>(first);
  const revision = ref(firstRevision);
  const state = ref<SaveState>("kept");
  const keptAt = ref(firstKept);
  const fault = ref("");
  const notice = ref("");
  const clashes = ref<Clash[]>([]);
  const changes = shallowRef<string[]>([]);
  const past = shallowRef<Change[]>([]);
  const future = shallowRef<Change[]>([]);
  const path = { account, workflow_id: workflow };
  const key = `${account}/${workflow}`;
  const unsaved = `${key}/unsaved`;
  let base = first; // what revision `revision` holds
  let lastKey = "";
  let lastAt = 0;
  let timer = 0;
  let saving: Promise<void> | undefined;

  get<History>(key, histories)
    .then((known) => {
      if (known?.revision !== revision.value || past.value.length) return;
      past.value = known.past;
      future.value = known.future;
    })
    .catch(() => undefined); // a browser that keeps nothing: undo begins anew
  get<Unsaved>(unsaved, histories)
    .then((left) => left && state.value === "kept" && goOnWith(left))
    .catch(() => undefined);

  /** What was typed here before, and could not be saved, comes on top of what is there now. */
  function goOnWith(left: Unsaved): void {
    const both = merged(left.base, left.doc, doc.value);
    if (both.clashes.length) {
      base = left.base;
      doc.value = left.doc;
      clashes.value = both.clashes;
      state.value = "conflict";
      return;
    }
    change((draft) => Object.assign(draft, both.doc));
    if ((state.value as SaveState) === "changed") notice.value = "What you typed here before, and was not kept, is here again.";
  }

  /** Changes the document by a recipe that may write on it. Changes with the same key that follow each other quickly are
   * one to undo. */
  function change(recipe: (doc: Doc) => void, key = ""): void {
    const [next, redo, undo] = produceWithPatches(doc.value, (draft) => {
      recipe(draft as Doc);
    });
    if (!redo.length) return;
    const last = past.value.at(-1);
    if (last && key !== "" && key === lastKey && Date.now() - lastAt < SAME) {
      past.value = [...past.value.slice(0, -1), { redo: [...last.redo, ...redo], undo: [...undo, ...last.undo] }];
    } else past.value = [...past.value, { redo, undo }];
    lastKey = key;
    lastAt = Date.now();
    future.value = [];
    put(next);
  }
  function undo(): void {
    const last = past.value.at(-1);
    if (!last) return;
    past.value = past.value.slice(0, -1);
    future.value = [...future.value, last];
    lastKey = "";
    put(applyPatches(doc.value, last.undo) as Doc);
  }
  function redo(): void {
    const next = future.value.at(-1);
    if (!next) return;
    future.value = future.value.slice(0, -1);
    past.value = [...past.value, next];
    lastKey = "";
    put(applyPatches(doc.value, next.redo) as Doc);
  }
  function put(next: Doc): void {
    doc.value = next;
    notice.value = "";
    if (state.value === "conflict") return;
    state.value = "changed";
    window.clearTimeout(timer);
    timer = window.setTimeout(save, PAUSE);
  }
  function remember(): void {
    const history: History = { revision: revision.value, past: past.value, future: future.value };
    keep(key, structuredClone(history), histories).catch(() => undefined);
  }

  /** Saves now, if there is anything to save; resolves when it is kept or cannot be. */
  async function save(): Promise<void> {
    window.clearTimeout(timer);
    await saving;
    if (state.value !== "changed" && state.value !== "failed") return;
    const sent = doc.value;
    state.value = "keeping";
    // Not waited for: who asks to save meanwhile waits for `saving`, and what is written here stays in its order.
    keep(unsaved, plain<Unsaved>({ doc: sent, base }), histories).catch(() => undefined);
    saving = ok(
      api.PUT("/api/accounts/{account}/workflows/{workflow_id}/draft", {
        params: { path },
        body: { document: sent, revision: revision.value },
      }),
    )
      .then((saved) => {
        revision.value = saved.revision;
        base = sent;
        keptAt.value = saved.local_changed;
        changes.value = saved.changes;
        fault.value = "";
        state.value = doc.value === sent ? "kept" : "changed";
        if (doc.value === sent) del(unsaved, histories).catch(() => undefined);
        remember();
      })
      .catch(async (error: ApiError) => {
        if (error.status === 409) return putTogether();
        fault.value = error.message;
        state.value = "failed";
        if (error.status === 0) timer = window.setTimeout(save, LOOK);
      });
    await saving;
    if ((state.value as SaveState) === "changed") timer = window.setTimeout(save, PAUSE);
  }

  const stored = () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path } }));

  /** Somebody else saved on top of what we began from. */
  async function putTogether(): Promise<void> {
    const theirs = await stored();
    const both = merged(base, doc.value, theirs.document);
    if (both.clashes.length) {
      clashes.value = both.clashes;
      state.value = "conflict";
      return;
    }
    takeOver(theirs.document, theirs.revision);
    doc.value = both.doc;
    notice.value = "Somebody else changed other parts meanwhile. Both are kept.";
    state.value = "changed";
  }
  /** From now on we write on top of this revision; what was undone before it cannot be redone onto it. */
  function takeOver(document: Doc, newest: number): void {
    base = document;
    revision.value = newest;
    past.value = [];
    future.value = [];
    lastKey = "";
  }

  /** After a clash: theirs, or ours where both changed the same; what only one changed is kept either way. */
  async function settle(whose: "theirs" | "ours"): Promise<void> {
    const theirs = await stored();
    const both = whose === "ours" ? merged(base, doc.value, theirs.document).doc : merged(base, theirs.document, doc.value).doc;
    const mine = doc.value;
    takeOver(theirs.document, theirs.revision);
    doc.value = whose === "ours" ? theirs.document : mine; // what was not chosen is what undo brings back
    clashes.value = [];
    state.value = "changed";
    change((draft) => Object.assign(draft, both));
    await save();
  }

  /** Whether somebody else wrote, while nothing of ours is unsaved. */
  async function look(): Promise<void> {
    if (state.value !== "kept" || document.hidden) return;
    const newest = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}/revision", { params: { path } })).catch(
      () => undefined,
    );
    if (!newest || newest.revision <= revision.value || state.value !== "kept") return;
    const theirs = await stored();
    if (state.value !== "kept") return;
    takeOver(theirs.document, theirs.revision);
    doc.value = theirs.document;
    keptAt.value = newest.local_changed;
    changes.value = theirs.changes;
    notice.value = `${newest.by || "Somebody"} changed this at ${newest.local_changed.split(", ")[1]}.`;
  }
  useIntervalFn(look, LOOK);

  function beforeLeaving(event: BeforeUnloadEvent): void {
    if (state.value === "kept") return;
    void save();
    event.preventDefault();
  }
  useEventListener(window, "beforeunload", beforeLeaving);
  onUnmounted(() => void save());

  return {
    doc,
    revision,
    state,
    keptAt,
    fault,
    notice,
    clashes,
    changes,
    change,
    undo,
    redo,
    save,
    settle,
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
  };
}
