<script setup lang="ts">
/** What must be known of a deal before it enters a stage: said in words, ticked in place. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { several } from "@/ui/words";

const props = defineProps<{ value: string[]; label: string; needs: Schemas["NeedOut"][]; disabled?: boolean }>();
defineEmits<{ keep: [needs: string[]] }>();
const open = ref(false);
const said = computed(() => several(props.value.map((one) => props.needs.find((need) => need.name === one)?.words ?? one)));
const words = computed(() => (said.value ? `when it is known ${said.value}` : "whatever is known"));
const toggled = (name: string) => (props.value.includes(name) ? props.value.filter((one) => one !== name) : [...props.value, name]);
</script>

<template>
  <span class="needs" @keydown.esc="open = false"
    ><BButton
      variant="link"
      class="part"
      :aria-label="`${label}: ${words}`"
      :aria-expanded="open"
      :disabled="disabled"
      @click="open = !open"
      >{{ words }}</BButton
    ><span v-if="open" role="group" :aria-label="label" class="choices">
      <BFormCheckbox
        v-for="one in needs"
        :key="one.name"
        :model-value="value.includes(one.name)"
        @update:model-value="$emit('keep', toggled(one.name))"
        >{{ one.words }}</BFormCheckbox
      >
    </span></span
  >
</template>

<style scoped>
.part {
  font: inherit;
  padding: 0;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  font: 15px var(--sans);
  padding: 4px 0;
}
</style>
