<script setup lang="ts">
/** A form's questions as they are filled in. */
import type { Schemas } from "@/api/client";
import { useFieldKinds } from "@/queries/useFieldKinds";
import StateMark from "@/ui/StateMark.vue";
import { isChecked } from "@/ui/events";

type Question = Schemas["Question"];
defineProps<{ design: Schemas["FormDesign"]; faults?: Record<string, string> }>();
/** What was typed, by the question's id. */
const answers = defineModel<Record<string, string[]>>({ required: true });
const { kindOf } = useFieldKinds();
const several = (one: Question) => kindOf(one.kind)?.picks === "several";
const fixed = (one: Question) => kindOf(one.kind)?.fixed.map((word) => word.charAt(0).toUpperCase() + word.slice(1)) ?? [];
const choicesOf = (one: Question) => (kindOf(one.kind)?.own_choices ? (one.choices ?? []) : fixed(one));
/** Few choices of the question's own stand there to be ticked; more, or those that go without saying, open from a line. */
const ticked = (one: Question) => several(one) || (kindOf(one.kind)?.own_choices && choicesOf(one).length <= 6);
function say(id: string, said: string[]) {
  answers.value = { ...answers.value, [id]: said };
}
function toggle(one: Question, choice: string, on: boolean) {
  const held = (answers.value[one.id] ?? []).filter((said) => said !== choice);
  say(one.id, on ? [...(several(one) ? held : []), choice] : held);
}
</script>

<template>
  <div v-for="one in design.questions" :key="one.id" class="question">
    <fieldset v-if="ticked(one)">
      <legend>{{ one.label }}{{ one.required ? " *" : "" }}</legend>
      <small v-if="one.help" class="soft">{{ one.help }}</small>
      <small v-if="faults?.[one.id]" class="rust"><StateMark is="broken" /> {{ faults[one.id] }}</small>
      <label v-for="choice in choicesOf(one)" :key="choice" class="tick"
        ><input
          :type="several(one) ? 'checkbox' : 'radio'"
          :name="one.id"
          :checked="answers[one.id]?.includes(choice)"
          @change="toggle(one, choice, isChecked($event))" />
        {{ choice }}</label
      >
    </fieldset>
    <label v-else>
      <span class="asked">{{ one.label }}{{ one.required ? " *" : "" }}</span>
      <small v-if="one.help" class="soft">{{ one.help }}</small>
      <small v-if="faults?.[one.id]" class="rust"><StateMark is="broken" /> {{ faults[one.id] }}</small>
      <span v-if="one.fills?.startsWith('appointment:')" class="soft">one of the next free times, by day</span>
      <BFormTextarea
        v-else-if="one.kind === 'long'"
        :model-value="answers[one.id]?.[0]"
        rows="3"
        @update:model-value="say(one.id, [String($event)])" />
      <BFormSelect
        v-else-if="kindOf(one.kind)?.picks"
        :model-value="answers[one.id]?.[0] ?? ''"
        @update:model-value="say(one.id, [String($event)])"
        ><option value="" />
        <option v-for="choice in choicesOf(one)" :key="choice">{{ choice }}</option></BFormSelect
      >
      <BFormInput
        v-else
        :type="(one.kind === 'email' ? 'email' : (kindOf(one.kind)?.input ?? 'text')) as 'text'"
        :model-value="answers[one.id]?.[0]"
        @update:model-value="say(one.id, [String($event)])" />
    </label>
  </div>
  <label v-for="(one, n) in design.consent" :key="n" class="tick"
    ><BFormCheckbox
      class="tick-beside"
      plain
      :model-value="answers[`consent-${n}`]?.length === 1"
      @update:model-value="say(`consent-${n}`, $event === true ? ['yes'] : [])" />
    <span>{{ one.words }}</span></label
  >
</template>

<style scoped>
.question {
  margin: 10px 0;
}
.question > label,
.question input:not([type="checkbox"], [type="radio"]),
.question select,
.question textarea {
  width: 100%;
}
.asked,
legend {
  font-weight: 600;
  font-size: 14px;
  color: var(--ink);
}
small {
  display: block;
}
.tick {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 3px 0;
}
</style>
