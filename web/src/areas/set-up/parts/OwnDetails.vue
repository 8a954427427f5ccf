<script setup lang="ts">
/** Details of the account's own choosing, each a merge field: what it is called, and its words. */
import { nextTick, ref } from "vue";

import type { Schemas } from "@/api/client";
import OfWorkflows from "./OfWorkflows.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Detail = Schemas["Detail"];
const props = defineProps<{ details: Detail[]; depends: Schemas["DependsOut"][]; fault: string; may: boolean }>();
const emit = defineEmits<{ keep: [details: Detail[]] }>();
/** The paths of the own ones come last, in their order. */
const used = (at: number) => props.depends.slice(-props.details.length)[at]?.workflows ?? [];
const change = (at: number, what: Partial<Detail>) =>
  emit(
    "keep",
    props.details.map((one, n) => (n === at ? { ...one, ...what } : one)),
  );
const drop = (at: number) =>
  emit(
    "keep",
    props.details.filter((_, n) => n !== at),
  );
const adding = ref(false);
const name = ref("");
const words = ref("");
const field = ref<HTMLElement>();
async function begin() {
  adding.value = true;
  await nextTick();
  field.value?.querySelector("input")?.focus();
}
function add() {
  emit("keep", [...props.details, { name: name.value, words: words.value }]);
  name.value = words.value = "";
  adding.value = false;
}
</script>

<template>
  <SetHead title="Details of its own" />
  <SetLine v-for="(one, at) in details" :key="one.name">
    <WordPart :value="one.name" :label="`Name of detail ${at + 1}`" :most="60" :disabled="!may" @keep="change(at, { name: $event })" />:
    <WordPart
      :value="one.words"
      :label="one.name"
      long
      :most="500"
      empty="no words yet"
      :disabled="!may"
      @keep="change(at, { words: $event })" />
    <BButton v-if="may" variant="link" class="small out" :aria-label="`Take out ${one.name}`" @click="drop(at)">take out</BButton>
    <template #depends
      ><template v-if="used(at).length">In messages of <OfWorkflows :of="used(at)" />.</template
      ><template v-else>A merge field, in no workflow yet.</template></template
    >
  </SetLine>
  <p v-if="fault" class="rust small" role="alert">{{ fault }}</p>
  <form v-if="adding" ref="field" class="row" @submit.prevent="add">
    <BFormInput v-model.trim="name" aria-label="Name of the detail" placeholder="Where to park" maxlength="60" required />
    <BFormInput
      v-model.trim="words"
      aria-label="Its words"
      placeholder="Behind the chandlery, free after six"
      maxlength="500"
      class="grow" />
    <BButton variant="primary" type="submit">Add it</BButton><BButton variant="link" @click="adding = false">Not now</BButton>
  </form>
  <p v-else-if="may" class="small add">
    <span v-if="!details.length" class="soft"
      >None yet. A price list, where to park: what messages say of it can be written once, here. </span
    ><BButton variant="link" @click="begin">one more detail</BButton>
  </p>
</template>

<style scoped>
.out {
  margin-left: 10px;
  font-family: var(--sans);
}
form {
  padding: 8px 0;
  max-width: 46rem;
}
form input {
  width: 14rem;
}
form input.grow {
  width: auto;
}
.add {
  padding: 6px 0;
}
</style>
