<script setup lang="ts">
/** Message limits across all workflows, and the least time between two messages, which is a limit of one. */
import type { Schemas } from "@/api/client";
import ReachParts from "./ReachParts.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Limit = Schemas["MessageLimit"];
const props = defineProps<{ limits: readonly Limit[]; fault?: string; may: boolean }>();
const emit = defineEmits<{ keep: [limits: Limit[]] }>();
const UNITS = ["minute", "hour", "day", "week", "month"];
const OVER = [
  { value: "wait", words: "waits" },
  { value: "leave_out", words: "is left out" },
];
const change = (at: number, what: Partial<Limit>) =>
  emit(
    "keep",
    props.limits.map((one, n) => (n === at ? { ...one, ...what } : one)),
  );
const drop = (at: number) =>
  emit(
    "keep",
    props.limits.filter((_, n) => n !== at),
  );
const add = (limit: Limit) => emit("keep", [...props.limits, limit]);
const amount = (limit: Limit) => Number((limit.within ?? "7 days").split(" ")[0]);
const unit = (limit: Limit) => (limit.within ?? "7 days").split(" ")[1]?.replace(/s$/, "") ?? "day";
const within = (count: number, name: string) => `${count} ${name}${count === 1 ? "" : "s"}`;
const units = (limit: Limit) => UNITS.map((one) => ({ value: one, words: amount(limit) === 1 ? one : `${one}s` }));
const isGap = (limit: Limit) => limit.messages === 1;
</script>

<template>
  <SetHead title="To one person, from all workflows together" />
  <p v-if="!limits.length" class="soft none">No limit: somebody in three workflows may hear from all three on one day.</p>
  <SetLine v-for="(one, at) in limits" :key="at">
    <template v-if="isGap(one)">Between two messages pass at least</template>
    <template v-else
      >At most
      <WordPart
        :value="one.messages ?? 3"
        type="number"
        :label="`Limit ${at + 1}: messages`"
        :least="2"
        :most="1000"
        :disabled="!may"
        @keep="change(at, { messages: Math.max(2, Number($event)) })" />
      messages in</template
    >
    <WordPart
      :value="amount(one)"
      type="number"
      :label="`Limit ${at + 1}: how long`"
      :least="1"
      :most="999"
      :disabled="!may"
      @keep="change(at, { within: within(Math.max(1, Number($event)), unit(one)) })" />
    <WordPart
      :value="unit(one)"
      :label="`Limit ${at + 1}: unit`"
      :choices="units(one)"
      :disabled="!may"
      @keep="change(at, { within: within(amount(one), $event) })" />, counting
    <ReachParts
      :channels="one.channels"
      :purposes="one.purposes ?? ['marketing']"
      :name="`limit ${at + 1}`"
      :disabled="!may"
      @channels="change(at, { channels: $event as Limit['channels'] })"
      @purposes="change(at, { purposes: $event as Limit['purposes'] })" />; what is over it
    <WordPart
      :value="one.over ?? 'wait'"
      :label="`Limit ${at + 1}: what is over it`"
      :choices="OVER"
      :disabled="!may"
      @keep="change(at, { over: $event as Limit['over'] })" />.
    <BButton v-if="may" variant="link" class="small out" :aria-label="`Take out limit ${at + 1}`" @click="drop(at)">take out</BButton>
    <template #depends>Every workflow keeps it, and counts what the others sent.</template>
  </SetLine>
  <p v-if="fault" class="rust small" role="alert">{{ fault }}</p>
  <p v-if="may" class="small more">
    <BButton variant="link" @click="add({ messages: 3, within: '7 days', purposes: ['marketing'] } as Limit)">a limit over days</BButton>
    <BButton variant="link" @click="add({ messages: 1, within: '4 hours', purposes: ['marketing', 'service'] } as Limit)"
      >least time between two</BButton
    >
  </p>
</template>

<style scoped>
.out {
  margin-left: 10px;
  font-family: var(--sans);
}
.more {
  display: flex;
  gap: 18px;
  padding: 6px 0 0;
}
.none {
  padding: 8px 0 0;
}
</style>
