<script setup lang="ts">
/** The next message of a series made from this one: a wait, and a copy with some words swapped. */
import { computed, ref } from "vue";

import Ask from "@/ui/Ask.vue";
import { placeOf, runOf, stepOf, type Step } from "./document";
import { useScript } from "./script";
import { duration } from "@/sentences/times";
import { next, wordings } from "./wordings";

const props = defineProps<{ step: string }>();
const emit = defineEmits<{ close: [] }>();
const script = useScript();
const from = stepOf(script.doc.value, props.step) as Step;
const place = placeOf(script.doc.value, props.step);
const before = place?.run[place.index - 1];
const wait = ref(before?.kind === "wait" ? before.duration : "7 days");
const swaps = ref<[string, string][]>([["", ""]]);
const length = computed(() => duration(wait.value));

function lines(): Step[] {
  const blank = { ...JSON.parse(JSON.stringify(script.kinds.value.get("wait")?.blank)), kind: "wait", id: "new" };
  const pause = (before?.kind === "wait" ? { ...before, duration: length.value } : { ...blank, duration: length.value }) as Step;
  return next(from, pause, swaps.value.filter(([find]) => find) as [string, string][], script.kinds.value);
}
const after = computed(() => wordings(length.value ? lines().slice(1) : [], script.kinds.value));
function make() {
  if (!length.value || !place) return;
  const made = lines();
  script.change((doc) => runOf(doc, place.lane?.id ?? "").splice(place.index + 1, 0, ...made));
  emit("close");
  script.select(made[1]?.id ?? "", true);
}
</script>

<template>
  <Ask v-slot="{ close }" title="Make the next one from this" wide @close="emit('close')">
    <form @submit.prevent="make">
      <label><span>After how long</span><input v-model="wait" size="12" autofocus /></label>
      <p v-if="!length" class="fault">Write it like “7 days”.</p>
      <fieldset>
        <legend>Words to swap</legend>
        <div v-for="(swap, index) in swaps" :key="index" class="row">
          <input v-model="swap[0]" :aria-label="`words ${index + 1}`" placeholder="week one" /> by
          <input v-model="swap[1]" :aria-label="`in place of words ${index + 1}`" placeholder="week two" />
        </div>
        <button type="button" class="link" @click="swaps.push(['', ''])">more words</button>
      </fieldset>
      <div v-for="one in after" :key="one.path" class="after">
        <small class="soft">{{ one.what }}</small>
        <p class="serif">{{ one.text }}</p>
      </div>
      <div class="actions">
        <button :disabled="!length">Write it below</button><button type="button" class="link" @click="close">Not now</button>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
fieldset {
  margin: 12px 0;
  display: grid;
  gap: 6px;
}
.after {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
}
.after p {
  white-space: pre-line;
  margin: 0;
}
</style>
