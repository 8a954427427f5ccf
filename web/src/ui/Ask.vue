<script setup lang="ts">
/** A question in a dialog, open while it is on the page; Escape or "Not now" closes it, a press beside it only while nothing
 * was typed or chosen in it. The field that says `autofocus` has the focus at once, else the first, so that no letter typed
 * after the key that opens it is lost (the dialog's own way takes some frames); afterwards the focus is where it was. */
import { onBeforeUnmount, onMounted, ref, useTemplateRef } from "vue";

import { asks } from "./asks";
import StateMark from "@/ui/StateMark.vue";

defineProps<{ title: string; wide?: boolean }>();
const emit = defineEmits<{ close: [] }>();
const touched = ref(false);
const inside = useTemplateRef("inside");
const before = document.activeElement;
const fault = ref("");
asks.push(fault);
const FIELDS = "input, select, textarea, button";
onMounted(() => (inside.value?.querySelector<HTMLElement>("[autofocus]") ?? inside.value?.querySelector<HTMLElement>(FIELDS))?.focus());
onBeforeUnmount(() => {
  asks.splice(asks.indexOf(fault), 1);
  if (!asks.length) document.body.classList.remove("modal-open"); // it goes at once, and the dialog's own way takes some frames
});
/** Back to where it was, unless what was done here has led the focus elsewhere. */
onBeforeUnmount(() =>
  setTimeout(() => document.activeElement === document.body && before instanceof HTMLElement && before.isConnected && before.focus()),
);
</script>

<template>
  <BModal
    model-value
    :title="title"
    title-tag="h2"
    :size="wide ? 'lg' : undefined"
    centered
    scrollable
    no-fade
    no-footer
    no-header-close
    :no-close-on-backdrop="touched"
    :focus="false"
    aria-modal="true"
    @hide="emit('close')">
    <p v-if="fault" class="fault" role="alert"><StateMark is="failed" /> {{ fault }}</p>
    <div ref="inside" @input="touched = true" @change="touched = true"><slot :close="() => emit('close')" /></div>
  </BModal>
</template>
