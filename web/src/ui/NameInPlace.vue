<script setup lang="ts">
/** A heading that is a name; chosen, it becomes a field in the same place. When `keep` fails, the field stays and says why. */
import { unrefElement } from "@vueuse/core";
import { nextTick, ref, type ComponentPublicInstance } from "vue";

import { usePending } from "./usePending";

const props = defineProps<{ name: string; label: string; may: boolean; keep: (name: string) => Promise<unknown> }>();
const editing = ref(false);
const typed = ref("");
const field = ref<HTMLInputElement>();
const button = ref<ComponentPublicInstance>();
const { pending, act } = usePending();
async function edit() {
  typed.value = props.name;
  editing.value = true;
  await nextTick();
  field.value?.select();
}
async function leave() {
  editing.value = false;
  await nextTick();
  (unrefElement(button) as HTMLElement | undefined)?.focus();
}
async function kept() {
  if (typed.value === props.name || (await act(() => props.keep(typed.value)))) await leave();
}
</script>

<template>
  <form v-if="editing" @submit.prevent="kept">
    <input ref="field" v-model.trim="typed" class="serif" :aria-label="label" required maxlength="120" @keydown.esc="leave" />
    <BButton variant="primary" type="submit" :disabled="pending">Keep the name</BButton>
    <BButton variant="link" @click="leave">Leave it</BButton>
  </form>
  <template v-else>
    <h1>{{ name }}</h1>
    <BButton v-if="may" ref="button" variant="link" class="small" @click="edit"
      >rename<span class="sr">: {{ label }}</span></BButton
    >
  </template>
</template>

<style scoped>
form {
  margin: 0 0 8px;
}
.small {
  min-height: 26px;
}
input {
  font-size: 22px;
  width: 22rem;
  max-width: 100%;
  margin-right: 10px;
}
</style>
