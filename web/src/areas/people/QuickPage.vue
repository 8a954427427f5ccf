<script setup lang="ts">
/** Quick entry: a line a person, as it stands in a notebook. What is understood shows while one types and is corrected
 * in place; Ctrl+Enter keeps everybody. */
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from "vue";

import { useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { refDebounced } from "@vueuse/core";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import StateMark from "@/ui/StateMark.vue";
import { valueOf } from "@/ui/events";

type Line = Schemas["QuickLine"];
const COLUMNS: [keyof Line & ("first_name" | "last_name" | "mobile" | "email" | "note"), string][] = [
  ["first_name", "First name"],
  ["last_name", "Last name"],
  ["mobile", "Mobile"],
  ["email", "Email"],
  ["note", "Note"],
];
const account = useAccount();
const { data: details } = useAccountDetails();
const touched = useTouched();
const text = ref("");
const notebook = useTemplateRef("notebook");
onMounted(() => notebook.value?.focus());
const lines = ref<Line[]>([]);
/** What was corrected by hand, by the words of its line: kept while that line is not typed anew. */
const corrected = new Map<string, Line>();
const still = refDebounced(text, 150);
const rows = computed(() =>
  text.value
    .split("\n")
    .map((words, at) => ({ words, at }))
    .filter((row) => row.words.trim()),
);
/** The lines that can be kept as they are; the others wait to be corrected. */
const fit = computed(() => rows.value.map((row) => row.at).filter((at) => lines.value[at] && !lines.value[at]?.fault));
watch(still, async (typed) => {
  const found = await ok(
    api.POST("/api/accounts/{account}/quick/understand", { params: { path: { account: account.value } }, body: { text: typed } }),
  ).catch(() => undefined);
  if (!found || typed !== text.value) return;
  const words = typed.split("\n");
  lines.value = found.map((line, at) => corrected.get(words[at] ?? "") ?? line);
});
function correct(at: number, column: (typeof COLUMNS)[number][0], value: string) {
  const line = { ...(lines.value[at] as Line), [column]: value, fault: "" };
  lines.value[at] = line;
  corrected.set(text.value.split("\n")[at] ?? "", line);
}

/** What all who are kept now agreed to, as stated by whoever types them in. */
const agreed = ref<("email" | "text")[]>([]);
const evidence = ref("");
const { pending, act } = usePending();
async function keep() {
  const kept = fit.value;
  if (!kept.length) return;
  const done = await act(async () => {
    const answers = await ok(
      api.POST("/api/accounts/{account}/quick", {
        params: { path: { account: account.value } },
        body: kept.map((at) => ({ ...(lines.value[at] as Line), agreed: agreed.value, evidence: evidence.value })),
      }),
    );
    const refused = new Map(answers.map((answer, n) => [kept[n] as number, answer.fault] as const));
    const left = rows.value.map((row) => row.at).filter((at) => refused.get(at) !== "");
    const count = answers.filter((one) => !one.fault);
    tell(
      `${many(count.filter((one) => one.new).length, "new person", "new people")}, ${count.filter((one) => !one.new).length} known before.`,
    );
    const words = text.value.split("\n");
    for (const at of left)
      if (refused.has(at)) corrected.set(words[at] ?? "", { ...(lines.value[at] as Line), fault: refused.get(at) ?? "" });
    lines.value = left.map((at) => corrected.get(words[at] ?? "") ?? (lines.value[at] as Line));
    text.value = left.map((at) => words[at]).join("\n");
  });
  if (done) {
    void touched("everything");
    await nextTick();
    document.querySelector<HTMLTextAreaElement>("#lines")?.focus();
  }
}
</script>

<template>
  <div class="page" @keydown.ctrl.enter.prevent="keep">
    <h1>Quick entry</h1>
    <p class="lead">
      Type a line a person, for instance
      <em>Ana Reyes {{ details?.example_number }} ana@example.com asked about the evening class #visitor</em>
    </p>
    <textarea id="lines" ref="notebook" v-model="text" rows="7" spellcheck="false" aria-label="A line a person" />
    <table v-if="rows.length && lines.length" class="understood">
      <thead>
        <tr>
          <th v-for="[column, words] in COLUMNS" :key="column">{{ words }}</th>
          <th>Tags</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.at">
          <template v-if="lines[row.at]">
            <td v-for="[column, words] in COLUMNS" :key="column">
              <input
                :value="lines[row.at]?.[column]"
                :placeholder="words"
                :aria-label="`${words} of line ${row.at + 1}`"
                :class="column"
                @input="correct(row.at, column, valueOf($event))" />
            </td>
            <td>
              <span v-for="tag in lines[row.at]?.tags" :key="tag" class="tag">{{ tag }}</span>
            </td>
            <td class="small">
              <span v-if="lines[row.at]?.fault" class="rust"><StateMark is="broken" /> {{ lines[row.at]?.fault }}</span
              ><span v-else-if="lines[row.at]?.known" class="sea"
                >is {{ lines[row.at]?.known }}, known: gaps are filled, the note is added</span
              ><span v-else class="kelp">new</span>
              <div v-if="lines[row.at]?.told" class="gorse"><StateMark is="look" /> {{ lines[row.at]?.told }}</div>
            </td>
          </template>
        </tr>
      </tbody>
    </table>
    <fieldset v-if="rows.length" class="agreed">
      <legend>They agreed to hear from the account</legend>
      <BFormCheckbox v-model="agreed" value="email">by email</BFormCheckbox>
      <BFormCheckbox v-model="agreed" value="text">by text</BFormCheckbox>
      <FormRow v-if="agreed.length" label="How do you know? It is kept with each of them"
        ><BFormInput v-model.trim="evidence" class="evidence" maxlength="400" placeholder="signed the sheet at the open day"
      /></FormRow>
    </fieldset>
    <p class="actions">
      <BButton variant="primary" :disabled="pending || !fit.length" @click="keep">{{
        fit.length ? `Keep ${many(fit.length, "person", "people")}` : "Keep them"
      }}</BButton><kbd>Ctrl Enter</kbd><span class="soft small">Lines that cannot be kept stay here, with the reason.</span>
    </p>
  </div>
</template>

<style scoped>
#lines {
  font: 16px/1.5 var(--serif);
  max-width: 60rem;
}
.understood {
  margin-top: 14px;
}
.understood td {
  padding: 4px 8px 4px 0;
}
.understood input {
  width: 100%;
  min-width: 6rem;
  font-size: 14px;
  padding: 3px 6px;
  border-color: var(--rule);
}
.understood input.note {
  min-width: 14rem;
}
.understood input::placeholder {
  color: transparent;
} /* the head of the column says it, where there is one */
.agreed {
  margin: 14px 0 0;
}
.evidence {
  width: 26rem;
}
.sea {
  color: var(--sea);
}
@media (max-width: 640px) {
  .understood thead {
    display: none;
  }
  .understood tr {
    display: grid;
    grid-template-columns: 1fr 1fr;
    padding: 8px 0;
    border-bottom: 1px solid var(--ink);
  }
  .understood td {
    border: 0;
  }
  .understood input::placeholder {
    color: var(--soft);
  }
  .understood td:nth-child(n + 4) {
    grid-column: 1 / -1;
  }
  .understood input,
  .understood input.note {
    min-width: 0;
  }
}
</style>
