<script setup lang="ts">
/** One form: its questions at the left, at the right the page as it will be; its address, code and flyer; its answers. */
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import PeopleTabs from "@/people/PeopleTabs.vue";
import { useAccount, useAccountDetails } from "@/practice/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import NameInPlace from "@/ui/NameInPlace.vue";
import { cut, many } from "@/ui/words";
import { plain } from "@/workflows/written";
import FormFill from "./FormFill.vue";
import FormQuestions from "./FormQuestions.vue";
import ReadState from "@/ui/ReadState.vue";
import { usePending } from "@/ui/usePending";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";

type Design = Schemas["FormDesign"];
type Question = Schemas["Question"];
const OWN: [string, string, Question["kind"]][] = [["full_name", "their name", "text"], ["first_name", "first name", "text"], ["last_name", "last name", "text"], ["email", "email", "email"], ["mobile", "mobile number", "phone"], ["post", "postal address", "long"]];
const { kinds, kindOf } = useFieldKinds();
/** What an answer is typed as: a line or some lines of text, else what a field of the account's can be. */
const answered = computed(() => [["text", "a line"], ["long", "some lines"], ...kinds.value.filter((one) => one.name !== "text").map((one) => [one.name, one.label])] as [NonNullable<Question["kind"]>, string][]);
const account = useAccount();
const route = useRoute();
const touched = useTouched();
const { data: account_ } = useAccountDetails();
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const id = computed(() => Number(route.params.form));
const path = computed(() => ({ account: account.value, form_id: id.value }));
const { data: form, ...formRead } = useRead("/forms/{form_id}", () => ({ path: path.value }), { refetchOnWindowFocus: false });
const { data: fields, ...fieldsRead } = useRead("/fields");
const { data: brand, ...brandRead } = useRead("/brand");
const { data: suggested, ...suggestedRead } = useRead("/forms/consent-words");

// ---- the design: kept by itself a moment after each change
const design = ref<Design>();
const open = ref(true);
const state = ref<"kept" | "keeping" | string>("kept");
const problem = ref("");
watch(form, (now) => {
  if (!now || design.value) return;
  design.value = plain(now.design) as Design;
  open.value = now.open;
  problem.value = now.problem;
}, { immediate: true });
let timer = 0;
watch([design, open], (_, before) => {
  if (!before[0] || !form.value || !may.value) return;
  state.value = "keeping";
  window.clearTimeout(timer);
  timer = window.setTimeout(keep, 400);
}, { deep: true });
async function keep() {
  if (!design.value || !form.value) return;
  try {
    const kept = await ok(api.PUT("/api/accounts/{account}/forms/{form_id}", { params: { path: path.value }, body: { design: design.value, open: open.value } }));
    state.value = "kept";
    problem.value = kept.problem;
  } catch (error) {
    state.value = (error as Error).message;
  }
}
async function rename(name: string) {
  await ok(api.PUT("/api/accounts/{account}/forms/{form_id}/name", { params: { path: path.value }, body: { name } }));
  await touched("/forms/{form_id}", "/forms");
}
function add() {
  const ids = new Set(design.value?.questions?.map((one) => one.id));
  let n = 1;
  while (ids.has(`q${n}`)) n++;
  design.value?.questions?.push({ id: `q${n}`, label: "A question", help: "", fills: "", kind: "text", required: false, choices: [] });
}
function fill(one: Question, fills: string) {
  const own = OWN.find(([name]) => name === fills);
  const field = fields.value?.find((known) => `field:${known.name}` === fills);
  one.fills = fills;
  if (own) one.kind = own[2];
  if (field) {
    one.kind = field.kind;
    one.choices = [...field.choices];
  }
  if (one.label === "A question" && (own || field)) one.label = own ? `Your ${own[1].replace("their ", "")}` : (field?.name ?? "");
}
function move(at: number, by: number) {
  const all = design.value?.questions;
  if (!all || !all[at + by]) return;
  const [one] = all.splice(at, 1);
  if (one) all.splice(at + by, 0, one);
}
function ask(channel: "email" | "text") {
  design.value?.consent?.push({ channel, purposes: ["marketing"], words: suggested.value?.[channel] ?? "" });
}
const looks = computed(() => ({ "--brand": brand.value?.colour || "#1d5b66", "--on-brand": brand.value?.on || "#fff" }));
const tried = ref<Record<string, string[]>>({});

// ---- answers
const which = ref<"taken" | "spam" | "test">("taken");
const { data: answers } = useRead("/forms/{form_id}/answers", () => ({ path: path.value, query: { state: which.value } }), { live: true });
const { act } = usePending();
async function letIn(answer: number) {
  await act(() => ok(api.POST("/api/accounts/{account}/forms/{form_id}/answers/{answer_id}/let-in", { params: { path: { ...path.value, answer_id: answer } } })));
  touched("/forms/{form_id}", "/forms");
}
const trying = ref(false);
const said = ref("");
const code = (format: string) => `/api/accounts/${account.value}/forms/${id.value}/code.${format}`;
const COLUMNS: Column[] = [
  { key: "when", label: "When" },
  { key: "who", label: "Who", class: "serif" },
  { key: "what_they_said", label: "What they said" },
  { key: "from", label: "From", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small" },
];
</script>

<template>
  <ReadState :of="[formRead, fieldsRead, brandRead, suggestedRead]" what="This form" missing="There is no such form" page>
  <div v-if="form && design" class="page">
    <PeopleTabs />
    <div class="row"><NameInPlace :name="form.name" label="Name of the form" :may="may" :keep="rename" /><span role="status" :class="state === 'kept' ? 'soft' : state === 'keeping' ? 'gorse' : 'rust'">{{ state === "kept" ? "kept" : state === "keeping" ? "keeping…" : `▲ ${state}` }}</span><span class="grow" /><BFormCheckbox v-if="may" v-model="open" class="tick">open</BFormCheckbox></div>
    <p v-if="problem" class="gorse">◷ {{ problem }}</p>
    <p v-if="!form.for_team" class="row where"><a :href="form.link" target="_blank" rel="noopener">{{ form.link }}</a><span class="soft small">QR code: <a :href="code('svg')" target="_blank">SVG</a>, <a :href="code('png')" target="_blank">PNG</a>, <a :href="code('pdf')" target="_blank">flyer to print</a></span></p>
    <div class="two">
      <fieldset :disabled="!may" class="design">
        <FormRow label="Title" class="wide"><BFormInput v-model="design.title" maxlength="200" /></FormRow>
        <FormRow label="Some words before the questions" class="wide"><BFormTextarea v-model="design.intro" rows="2" maxlength="2000" /></FormRow>
        <h2>Questions</h2>
        <div v-for="(one, at) in design.questions" :key="one.id" class="one">
          <div class="row"><BFormInput v-model="one.label" class="label" :aria-label="`Question ${at + 1}`" maxlength="200" /><BFormCheckbox v-model="one.required" class="tick small">needed</BFormCheckbox><BButton variant="link" class="icon" :aria-label="`Question ${at + 1} up`" :disabled="!at" @click="move(at, -1)">↑</BButton><BButton variant="link" class="icon" :aria-label="`Question ${at + 1} down`" :disabled="at === (design.questions?.length ?? 0) - 1" @click="move(at, 1)">↓</BButton><BButton variant="link" class="icon" :aria-label="`Take out question ${at + 1}`" @click="design.questions?.splice(at, 1)">✕</BButton></div>
          <div class="row small">
            <label>fills <BFormSelect :model-value="one.fills" :aria-label="`What question ${at + 1} fills`" @update:model-value="fill(one, String($event))"><option value="">nothing: the answer is kept</option><option v-for="[name, words] in OWN" :key="name" :value="name">{{ words }}</option><option v-for="known in fields" :key="known.id" :value="`field:${known.name}`">{{ known.name }}</option></BFormSelect></label>
            <label v-if="!one.fills">answered by <BFormSelect v-model="one.kind" :aria-label="`Kind of question ${at + 1}`"><option v-for="[kind, words] in answered" :key="kind" :value="kind">{{ words }}</option></BFormSelect></label>
            <BFormInput v-model="one.help" :aria-label="`Help for question ${at + 1}`" placeholder="a word of help" maxlength="300" />
          </div>
          <FormRow v-if="!one.fills && kindOf(one.kind)?.own_choices" label="Choices, by comma" class="wide small"><BFormInput :model-value="one.choices?.join(', ')" :model-modifiers="{ lazy: true }" @update:model-value="one.choices = cut(String($event))" /></FormRow>
        </div>
        <p><BButton variant="outline-primary" @click="add">One more question</BButton></p>
        <template v-if="!form.for_team">
          <h2>Consent that is asked for</h2>
          <div v-for="(one, at) in design.consent" :key="at" class="one">
            <div class="row small"><span>to {{ one.channel === "email" ? "emails" : "texts" }}; never ticked beforehand, and the words are kept with each yes</span><span class="grow" /><BButton variant="link" class="icon" :aria-label="`Take out consent ${at + 1}`" @click="design.consent?.splice(at, 1)">✕</BButton></div>
            <BFormTextarea v-model="one.words" rows="2" :aria-label="`Words of consent ${at + 1}`" maxlength="500" />
          </div>
          <p class="row"><BButton variant="link" @click="ask('email')">ask for emails</BButton><BButton variant="link" @click="ask('text')">ask for texts</BButton></p>
        </template>
        <h2>Afterwards</h2>
        <FormRow label="They read" class="wide"><BFormTextarea v-model="design.thanks" rows="2" maxlength="1000" /></FormRow>
        <div class="row"><FormRow label="Tags they get"><BFormInput :model-value="design.tags?.join(', ')" :model-modifiers="{ lazy: true }" @update:model-value="design.tags = cut(String($event))" /></FormRow><FormRow label="Lists they come onto"><BFormInput :model-value="design.lists?.join(', ')" :model-modifiers="{ lazy: true }" @update:model-value="design.lists = cut(String($event))" /></FormRow><FormRow v-if="!form.for_team" label="Kept from the link"><BFormInput :model-value="design.hidden?.join(', ')" :model-modifiers="{ lazy: true }" @update:model-value="design.hidden = cut(String($event))" /></FormRow><FormRow label="Button"><BFormInput v-model="design.button" maxlength="40" /></FormRow></div>
        <BFormCheckbox v-if="!form.for_team" v-model="design.one_device" class="tick">many fill it in on one device, at an open day: quick, and from one place</BFormCheckbox>
      </fieldset>
      <div>
        <p class="small soft">As it will be<template v-if="!form.for_team">, at <a :href="form.link" target="_blank" rel="noopener">its page</a></template></p>
        <div class="paper" :style="looks" aria-label="The form as it will be">
          <div class="bar"><strong>{{ account_?.name }}</strong><span v-if="brand?.line">{{ brand.line }}</span></div>
          <div class="body"><h2>{{ design.title || form.name }}</h2><p v-if="design.intro" class="intro">{{ design.intro }}</p><FormQuestions v-model="tried" :design="design" /><p><span class="send">{{ design.button }}</span></p></div>
        </div>
        <p class="row"><BButton v-if="may && !problem" variant="link" @click="trying = !trying">{{ trying ? "Close the test" : "Send it once as a test" }}</BButton><span v-if="said" class="kelp small">✓ {{ said }}</span></p>
        <FormFill v-if="trying" :form="id" @done="trying = false; said = 'It came in as a test; nobody was added.'; which = 'test'; touched('/forms/{form_id}', '/forms')" />
      </div>
    </div>
    <div class="row answers"><h2>Answers</h2><FormRow label="Which answers" hides-label><BFormSelect v-model="which"><option value="taken">that came in</option><option value="spam">kept apart as spam</option><option value="test">tests</option></BFormSelect></FormRow></div>
    <DataTable v-if="answers?.length" caption="Answers" :rows="answers" :columns="COLUMNS">
      <template #when="{ item: one }">{{ one.at }}</template>
      <template #who="{ item: one }"><RouterLink v-if="one.contact_id" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink><small v-if="one.by" class="soft"> by {{ one.by }}</small></template>
      <template #what_they_said="{ item: one }"><template v-for="(value, label, n) in one.answers" :key="label">{{ n ? " · " : "" }}<span class="soft">{{ label }}</span> {{ value }}</template></template>
      <template #from="{ item: one }">{{ Object.values(one.hidden).join(", ") }}</template>
      <template #acts="{ item: one }"><span v-if="one.reason && one.state === 'spam'" class="gorse">◷ {{ one.reason }}</span> <BButton v-if="one.state === 'spam'" variant="link" @click="letIn(one.id)">Let in</BButton></template>
    </DataTable>
    <p v-else-if="answers" class="soft">{{ which === "taken" ? `Nobody has sent it yet${form.for_team ? "" : "; its link or code can go out now"}.` : which === "spam" ? "Nothing was kept apart." : "No test yet." }}</p>
    <p class="soft small">{{ many(form.taken, "answer") }} in all.</p>
  </div>
  </ReadState>
</template>

<style scoped>
.two { display: grid; grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr); gap: 36px; border-top: 1px solid var(--ink); padding-top: 14px; }
.where { align-items: baseline; gap: 20px; }
.wide { width: 100%; margin-bottom: 8px; }
.wide input { width: 100%; }
.design h2 { margin: 16px 0 4px; }
.one { border-top: 1px solid var(--rule); padding: 8px 0; }
.one .row { margin-bottom: 4px; }
.label { flex: 1; min-width: 0; font-family: var(--serif); font-size: 16px; }
.one select, .one .small input { font-size: 13.5px; padding: 2px 5px; }
.tick { display: flex; gap: 6px; align-items: baseline; padding: 4px 0; }
.paper { border: 1px solid var(--rule); background: var(--paper); max-width: 24rem; }
.bar { background: var(--brand); color: var(--on-brand); padding: 12px 18px; font-family: var(--serif); }
.bar span { display: block; font-size: 13px; }
.body { padding: 14px 18px 20px; font-family: var(--serif); }
.intro { white-space: pre-line; }
.send { display: inline-block; background: var(--brand); color: var(--on-brand); font: 600 14.5px var(--sans); padding: 7px 16px; border: 1px solid var(--ink); margin-top: 10px; }
.answers { margin-top: 24px; border-top: 1px solid var(--ink); padding-top: 10px; }
@media (max-width: 900px) { .two { grid-template-columns: minmax(0, 1fr); } .one select { max-width: 100%; } .where a { overflow-wrap: anywhere; } }
</style>
