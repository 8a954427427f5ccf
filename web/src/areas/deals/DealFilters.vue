<script setup lang="ts">
/** Which deals are shown, in a sentence; and at the right what is looked for most. */
import type { LocationQuery } from "vue-router";

import type { Schemas } from "@/api/client";
import WordPart from "@/shared/settings/WordPart.vue";

type Known = Pick<Schemas["DealsOut"], "owners" | "segments" | "nothing" | "longer" | "mine" | "me">;
defineProps<{ data: Known; query: LocationQuery }>();
const emit = defineEmits<{ ask: [what: Record<string, string | undefined>] }>();
const toggle = (name: string, value: string, now: unknown) => emit("ask", { [name]: now === value ? undefined : value });
</script>

<template>
  <div class="row filter">
    <p class="say">
      Shows
      <WordPart
        :value="String(query.whose ?? '')"
        label="Whose deals"
        :choices="[
          { value: '', words: 'everybody’s' },
          { value: '0', words: 'nobody’s' },
          ...data.owners.map((one) => ({ value: String(one.id), words: `${one.name}’s` })),
        ]"
        @keep="emit('ask', { whose: $event || undefined })" />
      deals worth at least
      <WordPart
        :value="String(query.least ?? '')"
        label="Worth at least"
        type="number"
        empty="nothing"
        :least="0"
        @keep="emit('ask', { least: Number($event) > 0 ? $event : undefined })" /><template v-if="data.segments.length"
        >, in
        <WordPart
          :value="String(query.segment ?? '')"
          label="Segment"
          :choices="[{ value: '', words: 'any segment' }, ...data.segments.map((one) => ({ value: one, words: `“${one}”` }))]"
          @keep="emit('ask', { segment: $event || undefined })" /></template
      >.
    </p>
    <span class="grow" />
    <BButton variant="link" :aria-pressed="query.only === 'nothing'" @click="toggle('only', 'nothing', query.only)"
      >Nothing next <span class="soft">{{ data.nothing }}</span></BButton
    >
    <BButton variant="link" :aria-pressed="query.only === 'long'" @click="toggle('only', 'long', query.only)"
      >Too long here <span class="soft">{{ data.longer }}</span></BButton
    >
    <BButton variant="link" :aria-pressed="query.whose === String(data.me)" @click="toggle('whose', String(data.me), query.whose)"
      >Mine <span class="soft">{{ data.mine }}</span></BButton
    >
  </div>
</template>

<style scoped>
.filter {
  margin: 6px 0 12px;
  flex-wrap: wrap;
}
.say {
  margin: 0;
  font: 16px/1.5 var(--serif);
}
[aria-pressed="true"] {
  font-weight: 600;
  text-decoration: none;
  border-bottom: 2px solid var(--ink);
}
</style>
