<script setup lang="ts">
/** What a rehearsal did at a line: the message as it reads, the task, the reasons; at a wait, what the contact does. */
import { computed, ref } from "vue";

import type { Step } from "./document";
import { useScript } from "./script";
import { duration } from "@/sentences/times";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ step: Step }>();
const script = useScript();
const happened = computed(() => script.rehearsed.value.get(props.step.id) ?? []);
const awaited = computed(() => script.awaits.value === props.step.id);
const given = computed(() => script.answers.value[props.step.id]?.at(-1));
const after = ref("3 hours");
const own = ref("");
const speaks = computed(
  () =>
    props.step.kind === "wait_for_reply" ||
    props.step.kind === "booking_assistant" ||
    script.offers.value.some((one) => one.act && "reply" in one.act),
);

/** What is said in a conversation stands between what it answers and what comes of it. */
function around(reasons: string[]) {
  const says = reasons.findIndex((one) => one.startsWith("Says “"));
  return says < 0 ? { before: [], after: reasons } : { before: reasons.slice(0, says), after: reasons.slice(says + 1) };
}
function answer(words: string, act: Record<string, unknown> | null) {
  const gone = duration(after.value) ?? "0 minutes";
  own.value = "";
  script.answer(props.step.id, { words: act ? `${words} after ${gone}` : words, act, after: gone });
}
</script>

<template>
  <div v-if="happened.length" class="happened" @keydown.stop>
    <template v-for="(line, index) in happened" :key="index">
      <p v-for="reason in around(line.reasons).before" :key="reason" class="reason">
        <small v-if="index">{{ line.when }}</small> {{ reason }}
      </p>
      <blockquote v-for="message in line.messages" :key="message.name">
        <strong v-if="message.subject">{{ message.subject }}</strong>{{ message.body
        }}<template v-if="message.below"
          >{{ "\n" }}<span class="soft">{{ message.below }}</span></template
        >
        <small v-if="message.channel === 'text'" class="soft">{{ message.parts === 1 ? "1 part" : `${message.parts} parts` }}</small>
      </blockquote>
      <p v-for="task in line.tasks" :key="task" class="thrift">{{ task }}</p>
      <p v-for="reason in around(line.reasons).after" :key="reason" class="reason">
        <small v-if="index">{{ line.when }}</small> {{ reason }}
      </p>
    </template>
    <p v-if="given && (!awaited || step.kind === 'booking_assistant')">
      <button class="link" @click.stop="script.takeBack(step.id)">Take “{{ given.words }}” back, and try another</button>
    </p>
    <form v-if="awaited" class="answer" @submit.prevent="own.trim() && answer(`says “${own.trim()}”`, { reply: own.trim() })">
      <p class="gorse"><StateMark is="waits" /> What happens here?</p>
      <div class="row">
        <button
          v-for="one in script.offers.value"
          :key="one.words"
          type="button"
          class="plain"
          @click.stop="answer(one.words, one.act ?? null)">
          {{ one.words }}
        </button>
        <label class="small">after <input v-model="after" class="after" aria-label="After how long" /></label>
      </div>
      <div v-if="speaks" class="row">
        <input v-model="own" class="grow" aria-label="Other words" placeholder="or says other words" /><button :disabled="!own.trim()">
          Say it
        </button>
      </div>
    </form>
  </div>
</template>

<style scoped>
.happened {
  font: 14px/1.45 var(--sans);
  margin: 3px 0 6px;
}
blockquote {
  margin: 4px 0;
  padding: 6px 12px;
  border: 1px solid var(--rule);
  background: var(--paper);
  white-space: pre-line;
  max-width: 40em;
  font: 15px/1.45 var(--serif);
  overflow-wrap: anywhere;
}
blockquote strong {
  display: block;
}
blockquote small {
  display: block;
  font-family: var(--sans);
}
.reason {
  color: var(--soft);
  margin: 1px 0;
}
.answer {
  border-left: 3px solid var(--gorse);
  padding: 4px 0 4px 12px;
  margin: 6px 0;
}
.answer .row {
  margin-bottom: 7px;
  gap: 8px;
}
.after {
  width: 6.5em;
}
</style>
