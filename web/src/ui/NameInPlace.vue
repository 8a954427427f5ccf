<script setup lang="ts">
/** A heading that is a name; chosen, it becomes a field in the same place. When `keep` fails, the field stays and says why. */
import { nextTick, ref } from "vue";

import { usePending } from "./usePending";

const props = defineProps<{ name: string; label: string; may: boolean; keep: (name: string) => Promise<unknown> }>();
const editing = ref(false);
const typed = ref("");
const field = ref<HTMLInputElement>();
const button = ref<HTMLButtonElement>();
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
  button.value?.focus();
}
async function kept() {
  if (typed.value === props.name || (await act(() => props.keep(typed.value)))) await leave();
}
</script>

<template>
  <form v-if="editing" @submit.prevent="kept">
    <input ref="field" v-model.trim="typed" class="serif" :aria-label="label" required maxlength="120" @keydown.esc="leave" />
    <button :disabled="pending">Keep the name</button> <button type="button" class="link" @click="leave">Leave it</button>
  </form>
  <template v-else>
    <h1>{{ name }}</h1>
    <button v-if="may" ref="button" type="button" class="link small" @click="edit">rename<span class="sr">: {{ label }}</span></button>
  </template>
</template>

<style scoped>
form { margin: 0 0 8px; }
.small { min-height: 26px; }
input { font-size: 22px; width: 22rem; max-width: 100%; margin-right: 10px; }
</style>
