<script setup lang="ts">
/** What a rehearsal did at a line: the message as it reads, the task, the reasons; at a wait, the answer one gives. */
import { computed, ref } from "vue";

import { lanesOf, walk, type Step } from "./document";
import { useScript } from "./script";
import { duration } from "./typed";

const props = defineProps<{ step: Step }>();
const script = useScript();
const happened = computed(() => script.rehearsed.value.get(props.step.id) ?? []);
const awaited = computed(() => script.awaits.value === props.step.id);
const given = computed(() => script.answers.value[props.step.id]);
const after = ref("3 hours");
const own = ref("");

const ready = computed(() =>
  lanesOf(props.step).flatMap((lane) => ("answer" in lane && lane.words[0] ? [{ text: lane.words[0], lane }] : [])),
);
function answer(text: string | null) {
  script.answers.value = { ...script.answers.value, [props.step.id]: { text, after: duration(after.value) ?? "0 minutes" } };
}
/** Takes this answer back, and those given after it. */
function takeBack() {
  const order = [...walk(script.doc.value.steps)].map((step) => step.id);
  const from = order.indexOf(props.step.id);
  script.answers.value = Object.fromEntries(Object.entries(script.answers.value).filter(([id]) => order.indexOf(id) < from));
}
</script>

<template>
  <div v-if="happened.length" class="happened" @keydown.stop>
    <template v-for="(line, index) in happened" :key="index">
      <blockquote v-for="message in line.messages" :key="message.name">
        <strong v-if="message.subject">{{ message.subject }}</strong>{{ message.body }}
        <small v-if="message.channel === 'text'" class="soft">{{ message.parts === 1 ? "1 part" : `${message.parts} parts` }}</small>
      </blockquote>
      <p v-for="task in line.tasks" :key="task" class="thrift">{{ task }}</p>
      <p v-for="reason in line.reasons" :key="reason" class="reason"><small v-if="index">{{ line.when }}</small> {{ reason }}</p>
    </template>
    <p v-if="given && !awaited"><button class="link" @click.stop="takeBack">Take this answer back</button></p>
    <form v-if="awaited" class="answer" @submit.prevent="own.trim() && answer(own)">
      <p class="gorse">◷ What does the contact say here?</p>
      <div class="row">
        <button v-for="one in ready" :key="one.lane.id" type="button" class="plain" @click.stop="answer(one.text)">“{{ one.text }}”</button>
        <button type="button" class="plain" @click.stop="answer(null)">{{ step.kind === "wait_for" ? "nothing happens" : "says nothing" }}</button>
      </div>
      <div class="row">
        <input v-model="own" class="grow" aria-label="Other words" placeholder="or other words" /><button :disabled="!own.trim()">Say it</button>
        <label class="small">after <input v-model="after" class="after" aria-label="After how long" /></label>
      </div>
    </form>
  </div>
</template>

<style scoped>
.happened { font: 14px/1.45 var(--sans); margin: 3px 0 6px; }
blockquote { margin: 4px 0; padding: 6px 12px; border: 1px solid var(--rule); background: var(--paper); white-space: pre-line; max-width: 40em; font: 15px/1.45 var(--serif); overflow-wrap: anywhere; }
blockquote strong { display: block; }
blockquote small { display: block; font-family: var(--sans); }
.reason { color: var(--soft); margin: 1px 0; }
.answer { border-left: 3px solid var(--gorse); padding: 4px 0 4px 12px; margin: 6px 0; }
.answer .row { margin-bottom: 7px; gap: 8px; }
.after { width: 6.5em; }
</style>
