<script setup lang="ts">
/** A sender in a sentence: its address, as whom it is shown, for what it is usual, where answers go, how fast it is. */
import { ref } from "vue";

import type { Schemas } from "@/api/client";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { many, number } from "@/ui/words";
import OfWorkflows from "./OfWorkflows.vue";

type Sender = Schemas["SenderOut"];
defineProps<{ sender: Sender; eachMinute: number | null; fault: string; may: boolean }>();
const emit = defineEmits<{
  change: [body: Schemas["SenderChange"]];
  pace: [eachMinute: number | null];
  confirm: [code: string];
  again: [];
  remove: [];
}>();
const code = ref("");
const PURPOSES = [
  ["service", "what people booked or asked for"],
  ["marketing", "news and offers"],
] as const;
const WAYS = [
  { value: "", words: "can be answered" },
  { value: "one-way", words: "cannot be answered" },
];
const usualFor = (one: Sender) =>
  one.usual_for.length === 2
    ? "the usual one"
    : one.usual_for.length
      ? `usual for ${PURPOSES.find(([name]) => name === one.usual_for[0])?.[1]}`
      : "";
</script>

<template>
  <SetLine :fault="fault">
    <strong>{{ sender.written }}</strong><template v-if="sender.channel === 'email'"
      >, shown as
      <WordPart
        :value="sender.shown_as"
        :label="`${sender.written} is shown as`"
        empty="the business"
        :most="120"
        :disabled="!may"
        @keep="emit('change', { shown_as: $event })" /></template
    ><template v-if="sender.confirmed">
      <template v-if="sender.usual_for.length">, {{ usualFor(sender) }}</template
      >.
      <template v-if="sender.channel === 'email'"
        >Answers go to
        <WordPart
          :value="sender.reply_to"
          :label="`Answers to ${sender.written} go to`"
          type="email"
          empty="itself"
          :most="254"
          :disabled="!may"
          @keep="emit('change', { reply_to: $event })" />.</template
      ><template v-else
        >It
        <WordPart
          :value="sender.one_way ? 'one-way' : ''"
          :label="`${sender.written} and answers`"
          :choices="WAYS"
          :disabled="!may"
          @keep="emit('change', { one_way: $event === 'one-way' })" />.</template
      >
      It takes
      <WordPart
        :value="eachMinute"
        :label="`Messages a minute from ${sender.written}`"
        type="number"
        :least="1"
        empty="as many as there are"
        :disabled="!may"
        @keep="emit('pace', $event ? Number($event) : null)" />{{ eachMinute ? " a minute" : "" }}. Lines call it
      <WordPart
        :value="sender.name"
        :label="`What lines call ${sender.written}`"
        :most="120"
        :disabled="!may"
        @keep="emit('change', { name: $event })" />.
      <span v-if="may" class="acts sans">
        <template v-for="[name, words] in PURPOSES" :key="name"
          ><BButton v-if="!sender.usual_for.includes(name)" variant="link" class="small" @click="emit('change', { usual_for: [name] })"
            >Make it usual for {{ words }}</BButton
          >
        </template>
        <BButton v-if="!sender.usual_for.length" variant="link" class="small" @click="emit('remove')">Take away…</BButton>
      </span>
    </template>
    <template v-else
      >. <span class="gorse"><StateMark is="waits" /> Nothing comes from it before it is confirmed.</span>
      <form v-if="may" class="sans" @submit.prevent="emit('confirm', code)">
        <FormRow label="The code that was mailed to it"
          ><BFormInput v-model="code" inputmode="numeric" autocomplete="one-time-code" maxlength="6" required
        /></FormRow>
        <BButton type="submit" variant="outline-primary">Confirm</BButton>
        <BButton variant="link" @click="emit('again')">Mail another code</BButton>
        <BButton variant="link" @click="emit('remove')">Take away…</BButton>
      </form>
    </template>
    <template #depends>
      <template v-if="sender.done.sent"
        >In 30 days {{ many(sender.done.sent, "message") }}: {{ number(sender.done.arrived) }} arrived,
        <span :class="{ rust: sender.done.failed }">{{ number(sender.done.failed) }} did not</span>,
        {{ many(sender.done.answers, "answer") }}.</template
      ><template v-else>Nothing in 30 days.</template>
      <template v-if="sender.named_in.length"> Named in lines of <OfWorkflows :of="sender.named_in" />.</template>
      <span v-if="sender.one_way" class="rust"> Who texts “stop” to it is not heard: its messages must say another way out.</span>
    </template>
  </SetLine>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 8px 12px;
  font-size: 15px;
  padding: 4px 0 8px;
}
form input {
  width: 8rem;
}
.acts {
  display: inline-flex;
  gap: 12px;
}
strong {
  overflow-wrap: anywhere;
}
</style>
