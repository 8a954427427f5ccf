<script setup lang="ts">
/** When nothing goes out, in the contact's own time, by channel and purpose. */
import type { Schemas } from "@/api/client";
import { many } from "@/ui/words";
import OfWorkflows from "./OfWorkflows.vue";
import ReachParts from "./ReachParts.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Quiet = Schemas["QuietHours"];
const props = defineProps<{ quiet: readonly Quiet[]; send: { id: number; name: string }[]; fault?: string; may: boolean }>();
const emit = defineEmits<{ keep: [quiet: Quiet[]] }>();
const change = (at: number, what: Partial<Quiet>) =>
  emit(
    "keep",
    props.quiet.map((one, n) => (n === at ? { ...one, ...what } : one)),
  );
const drop = (at: number) =>
  emit(
    "keep",
    props.quiet.filter((_, n) => n !== at),
  );
const add = () => emit("keep", [...props.quiet, { start: "20:00", end: "08:00" } as Quiet]);
</script>

<template>
  <SetHead title="Quiet" />
  <p v-if="!quiet.length" class="soft none">No quiet hours: messages go out at any hour at which their workflow sends.</p>
  <SetLine v-for="(one, at) in quiet" :key="at">
    Nothing goes out from
    <WordPart
      :value="one.start ?? '21:00'"
      type="time"
      :label="`Quiet line ${at + 1} begins`"
      :disabled="!may"
      @keep="change(at, { start: $event })" />
    to
    <WordPart
      :value="one.end ?? '08:00'"
      type="time"
      :label="`Quiet line ${at + 1} ends`"
      :disabled="!may"
      @keep="change(at, { end: $event })" />
    where they are:
    <ReachParts
      :channels="one.channels"
      :purposes="one.purposes"
      :name="`quiet line ${at + 1}`"
      :disabled="!may"
      @channels="change(at, { channels: $event as Quiet['channels'] })"
      @purposes="change(at, { purposes: $event as Quiet['purposes'] })" />.
    <BButton v-if="may" variant="link" class="small out" :aria-label="`Take out quiet line ${at + 1}`" @click="drop(at)">take out</BButton>
    <template #depends
      ><template v-if="at === 0 && send.length"
        >{{ send.length > 1 ? `All ${many(send.length, "workflow")} that send keep it: ` : "Kept by " }}<OfWorkflows :of="send" />. What
        falls into it waits for its end.</template
      ></template
    >
  </SetLine>
  <p v-if="fault" class="rust small" role="alert">{{ fault }}</p>
  <p v-if="may" class="small more"><BButton variant="link" @click="add">one more quiet line</BButton></p>
</template>

<style scoped>
.out {
  margin-left: 10px;
  font-family: var(--sans);
}
.more,
.none {
  padding: 6px 0 0;
}
</style>
