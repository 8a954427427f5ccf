<script setup lang="ts">
/** A local moment in words; chosen, it becomes a field in the same place. */
import { nextTick, ref } from "vue";

import { moment } from "./words";
import { valueOf } from "@/ui/events";

defineProps<{ label: string }>();
const model = defineModel<string>({ required: true });
const editing = ref(false);
const field = ref<HTMLInputElement>();
async function edit() {
  editing.value = true;
  await nextTick();
  field.value?.focus();
}
function keep(event: Event) {
  const next = valueOf(event);
  if (next) model.value = next;
}
</script>

<template>
  <input
    v-if="editing"
    ref="field"
    type="datetime-local"
    :value="model"
    :aria-label="label"
    @change="keep"
    @blur="editing = false"
    @keydown.stop.enter="editing = false"
    @keydown.stop.esc="editing = false" />
  <BButton v-else variant="link" :aria-label="`${label}: ${moment(model)}`" @click.stop="edit">{{ moment(model) }}</BButton>
</template>
