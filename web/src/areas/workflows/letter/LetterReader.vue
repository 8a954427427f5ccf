<script setup lang="ts">
/** The mail as somebody reads it: on a phone or wide, in the dark, with pictures off, or its plain words. Nothing in it is run. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import ContactPick from "@/shared/ContactPick.vue";

const props = defineProps<{ preview?: Schemas["PreviewOut"] }>();
const reader = defineModel<number | undefined>("reader");
/** Somebody who shows what goes wrong: who has the longest name, or of whom nothing is known. */
const odd = defineModel<"" | "longest" | "nothing">("odd", { default: "" });
const shape = ref<"phone" | "wide">("phone");
const dark = ref(false);
const hides = ref(false);
const words = ref(false);
const printed = ref(false);
/** As programs show it that load no pictures: the words in their place. */
const html = computed(() => {
  const asked = props.preview?.html ?? "";
  const all = printed.value ? asked.replaceAll("@media print", "@media all") : asked;
  return hides.value ? all.replace(/<img\b[^>]*?\balt="([^"]*)"[^>]*>/g, "$1") : all;
});
</script>

<template>
  <section class="reader" aria-label="As it is read">
    <p class="as">
      as <ContactPick v-model="reader" :name="preview?.contact.trim() || 'somebody of whom nothing is known'" /> reads it
      <BButton variant="link" class="small" :aria-pressed="odd === 'longest'" @click="odd = odd === 'longest' ? '' : 'longest'"
        >longest name</BButton
      >
      <BButton variant="link" class="small" :aria-pressed="odd === 'nothing'" @click="odd = odd === 'nothing' ? '' : 'nothing'"
        >nothing known</BButton
      >
    </p>
    <p class="ways" role="group" aria-label="How it is read">
      <BButton variant="link" :aria-pressed="shape === 'phone'" @click="shape = 'phone'">phone</BButton>
      <BButton variant="link" :aria-pressed="shape === 'wide'" @click="shape = 'wide'">wide</BButton>
      <BButton variant="link" :aria-pressed="dark" @click="dark = !dark">dark</BButton>
      <BButton variant="link" :aria-pressed="hides" @click="hides = !hides">no pictures</BButton>
      <BButton variant="link" :aria-pressed="words" @click="words = !words">plain words</BButton>
      <BButton variant="link" :aria-pressed="printed" @click="printed = !printed">printed</BButton>
    </p>
    <p v-if="preview?.fault" class="gorse">{{ preview.fault }}</p>
    <template v-else-if="preview">
      <p class="head">
        <b>{{ preview.subject || "No subject yet" }}</b>
      </p>
      <pre v-if="words" class="plain">{{ preview.body }}</pre>
      <div v-else class="frame" :class="shape">
        <iframe
          :srcdoc="html"
          sandbox=""
          :title="`The mail as ${preview.contact} reads it`"
          :style="{ colorScheme: dark ? 'dark' : 'light' }"></iframe>
      </div>
    </template>
  </section>
</template>

<style scoped>
.reader {
  min-width: 0;
}
.as {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 10px;
  margin: 0 0 4px;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0 0 10px;
}
.as [aria-pressed="true"],
.ways [aria-pressed="true"] {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
  box-shadow: 0 2px 0 var(--ink);
}
.head {
  margin: 0;
  padding: 8px 0;
  border-top: 1px solid var(--ink);
}
.frame {
  overflow-x: auto;
}
iframe {
  border: 1px solid var(--rule);
  width: 390px;
  height: 68vh;
  max-width: 100%;
  display: block;
}
.wide iframe {
  width: 720px;
  max-width: none;
}
.plain {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font:
    14px/1.5 ui-monospace,
    monospace;
  border: 1px solid var(--rule);
  padding: 12px;
  background: var(--paper);
}
</style>
