<script setup lang="ts">
/** A condition in words: tests, each a sentence whose parts are edited in place, joined by all, any or none, nested. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import SentenceParts from "./SentenceParts.vue";
import { useAround } from "./around";
import { plain, type Condition, type Values } from "./written";
import { valueOf } from "@/ui/events";

const props = defineProps<{ condition: Condition; inner?: boolean }>();
const emit = defineEmits<{ change: [condition: Condition | null] }>();
const around = useAround();
const several = computed(() => props.condition.of);
const test = computed(() => around.book.value.tests.get(props.condition.test));
const JOINED: [string, string][] = [
  ["all", "all of these hold"],
  ["any", "any of these holds"],
  ["none", "none of these holds"],
];
/** Segments can be taken over as they are now; what is changed there later does not change here. */
const COPY = "copy of ";
const { data: segments } = useRead("/segments", undefined, { staleTime: 60_000 });

function blank(kind: string): Condition {
  const found = around.book.value.tests.get(kind)?.blank ?? {};
  return { ...plain(found), test: kind } as Condition;
}
function become(kind: string) {
  const copied = kind.startsWith(COPY) && segments.value?.find((one) => COPY + one.name === kind);
  if (copied) emit("change", plain(copied.condition) as Condition);
  else if (JOINED.some(([one]) => one === kind)) emit("change", { test: kind, of: several.value ?? [props.condition] });
  else emit("change", blank(kind));
}
function setOne(index: number, next: Condition | null) {
  const of = [...(several.value ?? [])];
  if (next) of[index] = next;
  else of.splice(index, 1);
  emit("change", { ...props.condition, of });
}
</script>

<template>
  <div class="condition" :class="{ inner }">
    <select :value="condition.test" aria-label="What is tested" @change="become(valueOf($event))">
      <option v-for="one in around.book.value.tests.values()" :key="one.kind" :value="one.kind">{{ one.label }}</option>
      <option v-for="[kind, words] in JOINED" :key="kind" :value="kind">{{ words }}</option>
      <optgroup v-if="segments?.length" label="as a segment has it now">
        <option v-for="one in segments" :key="one.id" :value="COPY + one.name">{{ one.name }}</option>
      </optgroup>
    </select>
    <span v-if="test" class="serif said"
      ><SentenceParts
        :sentence="test"
        :values="condition as Values"
        offer
        @change="(field, value) => emit('change', { ...condition, [field]: value })"
    /></span>
    <button v-if="inner" type="button" class="link small" aria-label="Take this test out" @click="emit('change', null)">take out</button>
    <template v-if="several">
      <ConditionEdit v-for="(one, index) in several" :key="index" :condition="one" inner @change="setOne(index, $event)" />
      <button type="button" class="link small" @click="setOne(several.length, blank('tag'))">one more test</button>
    </template>
    <button v-else-if="!inner" type="button" class="link small" @click="emit('change', { test: 'all', of: [condition, blank('tag')] })">
      and another test
    </button>
  </div>
</template>

<style scoped>
.condition {
  display: flex;
  flex-wrap: wrap;
  gap: 5px 10px;
  align-items: baseline;
}
.condition.inner {
  border-left: 1px solid var(--soft);
  padding-left: 10px;
  width: 100%;
  margin: 3px 0;
}
.said {
  font-size: 16px;
}
select {
  font-size: 14px;
  padding: 2px 4px;
  max-width: 15em;
}
</style>
