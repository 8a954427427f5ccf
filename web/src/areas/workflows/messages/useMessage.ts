/** A message of the library as it is written: a document of one line, in which all that writes lines of a script works. */
import { computed, ref, shallowRef, type Ref } from "vue";

import type { Schemas } from "@/api/client";
import { useMay } from "@/queries/account";
import type { Book, Values } from "@/sentences/written";
import { setAt, type Kind, type Step } from "../script/document";
import { provideScript, type Script } from "../script/script";
import { useDraft } from "../script/useDraft";
import { useNames } from "../script/useNames";
import { useReading } from "../script/useReading";
import { plain } from "@/sentences/written";

const nothing = () => undefined;

export function useMessage(account: Ref<string>, stored: Schemas["WorkflowOut"], catalogue: Schemas["CatalogueOut"], business: string) {
  const draft = useDraft(account.value, stored.id, plain(stored.document), stored.revision, stored.local_changed);
  draft.changes.value = stored.changes;
  const written = catalogue.written_with;
  const may = useMay();
  const kinds = new Map<string, Kind>(written.kinds.map((kind) => [kind.kind, kind]));
  const step = computed(() => draft.doc.value.steps[0] as Step);
  const kind = computed(() => kinds.get(step.value.kind) as Kind);
  const { checks, words, readingsByLine, checksByLine } = useReading(account, stored.id, draft.doc, ref(""));
  const { names, ownFields, namesRead } = useNames(draft.state);
  const mayWrite = computed(() => may("workflows"));
  const book = shallowRef<Book>({
    tests: new Map(written.tests.map((test) => [test.kind, test])),
    triggers: new Map(written.triggers.map((trigger) => [trigger.kind, trigger])),
    fieldName: (field) => ownFields.value[field] ?? field,
    lineName: (id) => words.value.get(id) ?? "",
  });
  const script: Script = {
    account,
    doc: draft.doc,
    kinds: computed(() => kinds),
    book,
    events: computed(() => written.events),
    names,
    namesRead,
    ownFields,
    tasks: ref([]),
    look: ref("write"),
    mayWrite,
    open: mayWrite,
    selected: ref(step.value.id),
    noted: ref(step.value.id),
    chosen: ref(new Set([step.value.id])),
    folded: ref(new Set()),
    adding: ref(),
    readings: readingsByLine,
    checks: checksByLine,
    rehearsed: ref(new Map()),
    awaits: ref(""),
    answers: ref({}),
    offers: ref([]),
    answer: nothing,
    takeBack: nothing,
    steppedTo: ref(""),
    uncovered: ref(new Set()),
    counts: ref(new Map()),
    watching: ref(),
    fields: computed(() => new Map(catalogue.merge_fields.map((field) => [field.path, field.label]))),
    accountName: ref(business.split(" ").slice(0, 2).join(" ")),
    memberName: ref("The team"),
    change: draft.change,
    select: nothing,
    insert: nothing,
    unwritten: ref(""),
    addBelow: nothing,
    mend: (check) =>
      draft.change((doc) => {
        const { mend } = check;
        if (mend?.do === "set" && doc.steps[0]) setAt(doc.steps[0], mend.path, mend.value);
      }),
    toNotes: (field = "") =>
      document.querySelector<HTMLElement>(`[data-field="${field}"] [contenteditable], [data-field="${field}"] input`)?.focus(),
    fold: nothing,
    moveLane: nothing,
  };
  provideScript(script);
  return { draft, script, step, kind, values: computed(() => step.value as unknown as Values), checks };
}
