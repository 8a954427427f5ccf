<script setup lang="ts">
/** A dialog that is open while it is on the page; Escape or "Not now" closes it. */
import { onMounted, ref } from "vue";

defineProps<{ title: string; wide?: boolean }>();
const emit = defineEmits<{ close: [] }>();
const dialog = ref<HTMLDialogElement>();
onMounted(() => dialog.value?.showModal());
</script>

<template>
  <dialog ref="dialog" :class="{ wide }" :aria-label="title" @close="emit('close')" @click.self="dialog?.close()">
    <h2>{{ title }}</h2>
    <slot :close="() => dialog?.close()" />
  </dialog>
</template>
