<script setup lang="ts">
/** Which of the account's scores the page is about; one more is made by naming it. */
import WordPart from "@/shared/settings/WordPart.vue";
import { tell } from "@/ui/told";

const props = defineProps<{ further: readonly string[]; may: boolean }>();
const of = defineModel<string>({ required: true });
const emit = defineEmits<{ add: [name: string]; drop: [name: string] }>();
const MOST = 5; // core.scoring.rules
const LEAD = "Lead score";
function add(typed: string) {
  const name = typed.trim();
  const taken = [LEAD, "score", ...props.further].some((one) => one.toLowerCase() === name.toLowerCase());
  if (taken) tell(`There is a score called ${name} already.`);
  else if (name) emit("add", name);
}
</script>

<template>
  <nav v-if="may || further.length" class="scores" aria-label="Scores">
    <BButton
      v-for="name in ['', ...further]"
      :key="name"
      variant="link"
      :class="{ on: of === name }"
      :aria-pressed="of === name"
      @click="of = name"
      >{{ name || LEAD }}</BButton
    >
    <WordPart
      v-if="may && further.length < MOST"
      :key="further.length"
      value=""
      label="The name of one more score"
      empty="one more score…"
      :most="40"
      @keep="add" />
    <span class="grow" />
    <BButton v-if="may && of" variant="link" class="small" @click="emit('drop', of)">Take “{{ of }}” away</BButton>
  </nav>
</template>

<style scoped>
.scores {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  align-items: baseline;
  margin-top: 10px;
  font: 17px var(--serif);
}
.scores .on {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}
</style>
