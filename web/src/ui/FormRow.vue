<script setup lang="ts">
/** One thing to fill in: its label, the control, what helps, and what was wrong with it, which a screen reader hears with it. */
import { onMounted, onUpdated, ref, useId } from "vue";

const props = defineProps<{ label: string; hidesLabel?: boolean; help?: string; fault?: string }>();
const id = useId();
const row = ref<HTMLElement>();
/** The one control inside gets the label and what is said below it, whatever sort of control it is. */
function tie() {
  const control = row.value?.querySelector<HTMLElement>("input, select, textarea");
  if (!control) return;
  control.id ||= id;
  row.value?.querySelector("label")?.setAttribute("for", control.id);
  if (props.help || props.fault) control.setAttribute("aria-describedby", `${id}-said`);
  else control.removeAttribute("aria-describedby");
  if (props.fault) control.setAttribute("aria-invalid", "true");
  else control.removeAttribute("aria-invalid");
}
onMounted(tie);
onUpdated(tie);
</script>

<template>
  <div ref="row" class="form-row">
    <label :class="hidesLabel ? 'visually-hidden' : 'form-label'" :for="id">{{ label }}</label>
    <slot />
    <small v-if="fault || help" :id="`${id}-said`" :class="fault ? 'rust' : 'soft'">{{ fault || help }}</small>
  </div>
</template>

<style scoped>
.form-row {
  display: inline-block;
  max-width: 100%;
  vertical-align: baseline;
}
small {
  display: block;
}
</style>
