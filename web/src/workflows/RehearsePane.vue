<script setup lang="ts">
/** Who is rehearsed, from which moment, and how it came out. */
import type { Schemas } from "@/api/client";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import ContactPick from "./ContactPick.vue";
import { useScript } from "./script";

defineProps<{ outcome?: Schemas["Rehearsed"]; fault: string }>();
const contact = defineModel<number | undefined>("contact");
const start = defineModel<string>("start", { required: true });
const script = useScript();
function again() {
  script.answers.value = {};
}
</script>

<template>
  <aside id="notes" aria-label="Rehearsal">
    <h2>Rehearsal</h2>
    <p class="soft">Played by the engine itself against made-up time. Nothing is sent, nobody is changed.</p>
    <p>With <ContactPick v-model="contact" :name="outcome?.contact" /></p>
    <p>who joins <MomentInPlace v-model="start" label="joins at" /></p>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <template v-if="outcome">
      <p class="came serif" role="status">
        <template v-if="outcome.awaits"><span class="gorse">◷</span> Waits for an answer: give one at the line marked so.</template>
        <template v-else><span class="kelp">✓</span> {{ outcome.ended.charAt(0).toUpperCase() + outcome.ended.slice(1) }}, on day {{ outcome.lines.at(-1)?.day ?? 0 }}.</template>
      </p>
      <p>Tags then: <span v-for="tag in outcome.tags" :key="tag" class="tag">{{ tag }}</span><span v-if="!outcome.tags.length" class="soft">none</span></p>
      <p v-if="Object.keys(script.answers.value).length"><button class="plain" @click="again">From the beginning</button></p>
      <h3>All that happened</h3>
      <ol>
        <li v-for="(line, index) in outcome.lines" :key="index"><small class="soft">Day {{ line.day }}, {{ line.when }}</small><br />{{ line.reasons.join(" ") }}</li>
      </ol>
    </template>
  </aside>
</template>

<style scoped>
.came { font-size: 17px; border-top: 1px solid var(--ink); padding-top: 12px; margin-top: 16px; }
h3 { margin: 18px 0 4px; }
ol { list-style: none; padding: 0; margin: 0; }
li { border-top: 1px solid var(--rule); padding: 6px 0; font-size: 14px; }
</style>
