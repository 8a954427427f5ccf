<script setup lang="ts">
/** What a form asks, in which order, what its answers fill, and what comes after. The design is changed in place. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useFieldKinds } from "@/queries/useFieldKinds";
import FormRow from "@/ui/FormRow.vue";
import DealMade from "./DealMade.vue";
import { cut } from "@/ui/words";

type Question = Schemas["Question"];
defineProps<{ may: boolean; forTeam: boolean }>();
const design = defineModel<Schemas["FormDesign"]>({ required: true });
const { data: fields } = useRead("/fields");
const { data: more } = useRead("/forms/can-be-asked");
const { data: suggested } = useRead("/forms/consent-words");
const OWN: [string, string, Question["kind"]][] = [
  ["full_name", "their name", "text"],
  ["first_name", "first name", "text"],
  ["last_name", "last name", "text"],
  ["email", "email", "email"],
  ["mobile", "mobile number", "phone"],
  ["post", "postal address", "long"],
];
const { kinds, kindOf } = useFieldKinds();
/** What an answer is typed as: a line or some lines of text, else what a field of the account's can be. */
const answered = computed(
  () =>
    [
      ["text", "a line"],
      ["long", "some lines"],
      ...kinds.value.filter((one) => one.name !== "text").map((one) => [one.name, one.label]),
    ] as [NonNullable<Question["kind"]>, string][],
);
function add() {
  const ids = new Set(design.value.questions?.map((one) => one.id));
  let n = 1;
  while (ids.has(`q${n}`)) n++;
  design.value.questions?.push({ id: `q${n}`, label: "A question", help: "", fills: "", kind: "text", required: false, choices: [] });
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
  if (more.value?.some((known) => known.fills === fills)) {
    one.kind = "text";
    if (one.label === "A question") one.label = "When would you like to come?";
  }
  if (one.label === "A question" && (own || field)) one.label = own ? `Your ${own[1].replace("their ", "")}` : (field?.name ?? "");
}
function move(at: number, by: number) {
  const all = design.value.questions;
  if (!all || !all[at + by]) return;
  const [one] = all.splice(at, 1);
  if (one) all.splice(at + by, 0, one);
}
function askConsent(channel: "email" | "text") {
  design.value.consent?.push({ channel, purposes: ["marketing"], words: suggested.value?.[channel] ?? "" });
}
</script>

<template>
  <fieldset :disabled="!may" class="design">
    <FormRow label="Title" class="wide"><BFormInput v-model="design.title" maxlength="200" /></FormRow>
    <FormRow label="Some words before the questions" class="wide"
      ><BFormTextarea v-model="design.intro" rows="2" maxlength="2000"
    /></FormRow>
    <h2>Questions</h2>
    <div v-for="(one, at) in design.questions" :key="one.id" class="one">
      <div class="row">
        <BFormInput v-model="one.label" class="label" :aria-label="`Question ${at + 1}`" maxlength="200" /><BFormCheckbox
          v-model="one.required"
          class="tick small"
          >needed</BFormCheckbox
        ><BButton variant="link" class="icon" :aria-label="`Question ${at + 1} up`" :disabled="!at" @click="move(at, -1)">↑</BButton
        ><BButton
          variant="link"
          class="icon"
          :aria-label="`Question ${at + 1} down`"
          :disabled="at === (design.questions?.length ?? 0) - 1"
          @click="move(at, 1)"
          >↓</BButton
        ><BButton variant="link" class="icon" :aria-label="`Take out question ${at + 1}`" @click="design.questions?.splice(at, 1)"
          >✕</BButton
        >
      </div>
      <div class="row small">
        <label
          >fills
          <BFormSelect
            :model-value="one.fills"
            :aria-label="`What question ${at + 1} fills`"
            @update:model-value="fill(one, String($event))"
            ><option value="">nothing: the answer is kept</option>
            <option v-for="[name, words] in OWN" :key="name" :value="name">{{ words }}</option>
            <option v-for="known in fields" :key="known.id" :value="`field:${known.name}`">{{ known.name }}</option>
            <template v-if="!forTeam"
              ><option v-for="known in more" :key="known.fills" :value="known.fills">{{ known.label }}</option></template
            ></BFormSelect
          ></label
        >
        <label v-if="!one.fills"
          >answered by
          <BFormSelect v-model="one.kind" :aria-label="`Kind of question ${at + 1}`"
            ><option v-for="[kind, words] in answered" :key="kind" :value="kind">{{ words }}</option></BFormSelect
          ></label
        >
        <BFormInput v-model="one.help" :aria-label="`Help for question ${at + 1}`" placeholder="a word of help" maxlength="300" />
      </div>
      <FormRow v-if="!one.fills && kindOf(one.kind)?.own_choices" label="Choices, by comma" class="wide small"
        ><BFormInput
          :model-value="one.choices?.join(', ')"
          :model-modifiers="{ lazy: true }"
          @update:model-value="one.choices = cut(String($event))"
      /></FormRow>
    </div>
    <p><BButton variant="outline-primary" @click="add">One more question</BButton></p>
    <template v-if="!forTeam">
      <h2>Consent that is asked for</h2>
      <div v-for="(one, at) in design.consent" :key="at" class="one">
        <div class="row small">
          <span>to {{ one.channel === "email" ? "emails" : "texts" }}; never ticked beforehand, and the words are kept with each yes</span
          ><span class="grow" /><BButton
            variant="link"
            class="icon"
            :aria-label="`Take out consent ${at + 1}`"
            @click="design.consent?.splice(at, 1)"
            >✕</BButton
          >
        </div>
        <BFormTextarea v-model="one.words" rows="2" :aria-label="`Words of consent ${at + 1}`" maxlength="500" />
      </div>
      <p class="row">
        <BButton variant="link" @click="askConsent('email')">ask for emails</BButton
        ><BButton variant="link" @click="askConsent('text')">ask for texts</BButton>
      </p>
    </template>
    <h2>Afterwards</h2>
    <FormRow label="They read" class="wide"><BFormTextarea v-model="design.thanks" rows="2" maxlength="1000" /></FormRow>
    <div class="row">
      <FormRow label="Tags they get"
        ><BFormInput
          :model-value="design.tags?.join(', ')"
          :model-modifiers="{ lazy: true }"
          @update:model-value="design.tags = cut(String($event))" /></FormRow
      ><FormRow label="Lists they come onto"
        ><BFormInput
          :model-value="design.lists?.join(', ')"
          :model-modifiers="{ lazy: true }"
          @update:model-value="design.lists = cut(String($event))" /></FormRow
      ><FormRow v-if="!forTeam" label="Kept from the link"
        ><BFormInput
          :model-value="design.hidden?.join(', ')"
          :model-modifiers="{ lazy: true }"
          @update:model-value="design.hidden = cut(String($event))" /></FormRow
      ><FormRow label="Button"><BFormInput v-model="design.button" maxlength="40" /></FormRow>
    </div>
    <div class="row"><DealMade :made="design.deal" @change="design.deal = $event" /></div>
    <BFormCheckbox v-if="!forTeam" v-model="design.one_device" class="tick"
      >many fill it in on one device, at an open day: quick, and from one place</BFormCheckbox
    >
  </fieldset>
</template>

<style scoped>
.wide {
  width: 100%;
  margin-bottom: 8px;
}
.wide input {
  width: 100%;
}
.design h2 {
  margin: 16px 0 4px;
}
.one {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
.one .row {
  margin-bottom: 4px;
}
.label {
  flex: 1;
  min-width: 0;
  font-family: var(--serif);
  font-size: 16px;
}
.one select,
.one .small input {
  font-size: 13.5px;
  padding-block: 2px;
  padding-left: 5px;
}
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 4px 0;
}
@media (max-width: 900px) {
  .one select {
    max-width: 100%;
  }
}
</style>
