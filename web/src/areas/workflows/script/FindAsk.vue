<script setup lang="ts">
/** Finds words in all messages and lines, shows what each would say then, and replaces those that are ticked. */
import { computed, ref, watch } from "vue";

import Ask from "@/ui/Ask.vue";
import { many } from "@/ui/words";
import { useScript } from "./script";
import { put, readable, replaced, wordings } from "./wordings";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";

const emit = defineEmits<{ close: [] }>();
const script = useScript();
const find = ref("");
const by = ref("");
const left = ref(new Set<number>());
const done = ref("");
const hits = computed(() =>
  find.value
    ? wordings(script.doc.value.steps, script.kinds.value).flatMap((one) =>
        replaced(one.text, find.value, "\u0000") === one.text ? [] : [{ ...one, after: replaced(one.text, find.value, by.value) }],
      )
    : [],
);
watch(find, () => (left.value = new Set()));
const chosen = computed(() => hits.value.filter((_, index) => !left.value.has(index)));
function toggle(index: number) {
  const next = new Set(left.value);
  if (!next.delete(index)) next.add(index);
  left.value = next;
}
function replace() {
  const texts = chosen.value.map((one) => ({ ...one, text: one.after }));
  script.change((doc) => put(doc, texts));
  done.value = `${many(texts.length, "text")} changed. Ctrl Z takes it back.`;
  find.value = "";
}
function cut(whole: string, around: string): string {
  const text = readable(whole).replace(/\s+/g, " ");
  const at = Math.max(0, text.toLowerCase().indexOf(around.toLowerCase()) - 30);
  return `${at ? "…" : ""}${text.slice(at, at + 110)}${text.length > at + 110 ? "…" : ""}`;
}
const lineOf = (step: string) => script.readings.value.get(step)?.sentence ?? "";
</script>

<template>
  <Ask v-slot="{ close }" title="Find and replace in this script" wide @close="emit('close')">
    <form class="row" @submit.prevent="chosen.length && replace()">
      <FormRow label="Find"><BFormInput v-model="find" autofocus class="wide" /></FormRow>
      <FormRow label="Put in its place"><BFormInput v-model="by" class="wide" /></FormRow>
      <BButton variant="primary" type="submit" :disabled="!chosen.length">Replace in {{ many(chosen.length, "text") }}</BButton>
    </form>
    <p v-if="done && !find" class="kelp" role="status"><StateMark is="done" /> {{ done }}</p>
    <p v-else-if="find && !hits.length" class="soft">Nothing says that.</p>
    <ul>
      <li v-for="(hit, index) in hits" :key="hit.step + hit.path">
        <label class="hit"
          ><BFormCheckbox class="beside" plain :model-value="!left.has(index)" @update:model-value="toggle(index)" />
          <small class="soft">{{ lineOf(hit.step) }} {{ hit.what }}</small></label
        >
        <p class="serif">
          <del>{{ cut(hit.text, find) }}</del>
        </p>
        <p class="serif">{{ cut(hit.after, by || find) }}</p>
      </li>
    </ul>
    <div class="actions"><BButton variant="link" @click="close">Back to the script</BButton></div>
  </Ask>
</template>

<style scoped>
form {
  align-items: end;
}
ul {
  list-style: none;
  padding: 0;
  margin: 14px 0 0;
  max-height: 50vh;
  overflow: auto;
}
li {
  border-top: 1px solid var(--rule);
  padding: 7px 0;
}
li p {
  margin: 2px 0 0 24px;
  white-space: pre-line;
}
del {
  color: var(--soft);
}
</style>
