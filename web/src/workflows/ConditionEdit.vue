<script setup lang="ts">
/** A condition as rows of words: tests joined by all / any / none, nested. */
import { computed } from "vue";

import type { Condition } from "./document";

type Several = Extract<Condition, { test: "all" | "any" | "none" }>;
const props = defineProps<{ condition: Condition; tags: string[]; inner?: boolean }>();
const emit = defineEmits<{ change: [condition: Condition | null] }>();

const several = computed(() => ("of" in props.condition ? (props.condition as Several) : undefined));
const KINDS: [string, string][] = [
  ["tag", "tag"],
  ["field", "field"],
  ["reach", "can be reached"],
  ["all", "all of…"],
  ["any", "any of…"],
  ["none", "none of…"],
];
const BLANK: Record<string, Condition> = {
  tag: { test: "tag", tag: "", has: true },
  field: { test: "field", field: "first_name", compare: "known", value: "", values: [] },
  reach: { test: "reach", channel: "text", can: true, purpose: "marketing" },
};
function become(kind: string) {
  const own = several.value ? several.value.of : [props.condition];
  if (kind === "all" || kind === "any" || kind === "none") emit("change", { test: kind, of: own } as Condition);
  else emit("change", structuredClone(BLANK[kind] as Condition));
}
function set(changes: Record<string, unknown>) {
  emit("change", { ...props.condition, ...changes } as Condition);
}
function setOne(index: number, next: Condition | null) {
  const of = [...(several.value?.of ?? [])];
  if (next) of[index] = next;
  else of.splice(index, 1);
  set({ of });
}
function more() {
  set({ of: [...(several.value?.of ?? []), structuredClone(BLANK.tag)] });
}
</script>

<template>
  <div class="condition" :class="{ inner }">
    <select :value="condition.test" aria-label="What is tested" @change="become(($event.target as HTMLSelectElement).value)">
      <option v-for="[kind, words] in KINDS" :key="kind" :value="kind">{{ words }}</option>
      <option v-if="!KINDS.some(([kind]) => kind === condition.test)" :value="condition.test">{{ condition.test }}, as in the file</option>
    </select>
    <template v-if="condition.test === 'tag'">
      <select :value="String(condition.has)" aria-label="has or lacks" @change="set({ has: ($event.target as HTMLSelectElement).value === 'true' })">
        <option value="true">has</option><option value="false">lacks</option>
      </select>
      <input :value="condition.tag" list="condition-tags" aria-label="tag" placeholder="tag" maxlength="80" @change="set({ tag: ($event.target as HTMLInputElement).value.trim() })" />
      <datalist id="condition-tags"><option v-for="tag in tags" :key="tag" :value="tag" /></datalist>
    </template>
    <template v-else-if="condition.test === 'field'">
      <select :value="condition.field" aria-label="field" @change="set({ field: ($event.target as HTMLSelectElement).value })">
        <option value="first_name">first name</option><option value="last_name">last name</option><option value="email">email</option><option value="mobile">mobile</option><option value="zone">time zone</option>
      </select>
      <select :value="condition.compare" aria-label="how" @change="set({ compare: ($event.target as HTMLSelectElement).value })">
        <option value="known">is known</option><option value="missing">is missing</option><option value="is">is</option><option value="contains">contains</option>
      </select>
      <input v-if="condition.compare === 'is' || condition.compare === 'contains'" :value="condition.value" aria-label="value" @change="set({ value: ($event.target as HTMLInputElement).value })" />
    </template>
    <template v-else-if="condition.test === 'reach'">
      <select :value="String(condition.can)" aria-label="can or cannot" @change="set({ can: ($event.target as HTMLSelectElement).value === 'true' })">
        <option value="true">can</option><option value="false">cannot</option>
      </select>
      <select :value="condition.channel" aria-label="channel" @change="set({ channel: ($event.target as HTMLSelectElement).value })">
        <option value="text">by text</option><option value="email">by email</option>
      </select>
    </template>
    <button v-if="inner" type="button" class="link" aria-label="Take this test out" @click="emit('change', null)">✕</button>
    <template v-if="several">
      <ConditionEdit v-for="(one, index) in several.of" :key="index" :condition="one as Condition" :tags="tags" inner @change="setOne(index, $event)" />
      <button type="button" class="link small" @click="more">one more</button>
    </template>
  </div>
</template>

<style scoped>
.condition { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.condition.inner { border-left: 1px solid var(--soft); padding-left: 10px; width: 100%; margin: 3px 0; }
input { width: 9em; }
select, input { font-size: 14px; padding: 3px 5px; }
</style>
