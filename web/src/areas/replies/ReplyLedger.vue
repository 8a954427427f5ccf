<script setup lang="ts">
/** Who waits, in the ruler how long: what is to be decided first, then who has waited longest. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { DECISIONS, useReplies } from "@/shared/useReplies";
import StateMark from "@/ui/StateMark.vue";
import { many, moment } from "@/ui/words";

type Row = Schemas["CorrespondenceRow"];
const props = defineProps<{ rows: Row[]; talks: Row[]; show: string; chosen?: number; may: boolean; query: Record<string, string> }>();
const { decide, pending } = useReplies();
const groups = computed(() => {
  if (["all", "by_itself", "put_off"].includes(props.show)) return [{ heading: "", rows: props.rows }];
  const decides = props.rows.filter((one) => one.to_decide);
  const others = props.rows.filter((one) => !one.to_decide);
  return [
    { heading: decides.length ? `${decides.length} to decide` : "", thrift: true, rows: decides },
    { heading: others.length ? `${many(others.length, "to answer", "to answer")}` : "", rows: others },
    { heading: "with the assistant", gorse: true, rows: props.talks },
  ].filter((one) => one.rows.length);
});
const BY = {
  word: "answered by a word",
  rule: "answered by a rule",
  workflow: "answered by a workflow",
  assistant: "answered by the assistant",
} as Record<string, string>;
/** "1 hour 30 minutes", as a ruler has room for it: "1 h 30". */
const short = (words: string) =>
  words
    .replace(/ (day|hour|minute)s?/g, (_, unit: string) => ({ day: " d", hour: " h", minute: " min" })[unit] ?? "")
    .replace(/( h \d+) min/, "$1");
</script>

<template>
  <section v-for="group in groups" :key="group.heading" :aria-label="group.heading || 'Correspondences'">
    <h2 v-if="group.heading" :class="{ thrift: group.thrift, gorse: group.gorse }">{{ group.heading }}</h2>
    <article v-for="row in group.rows" :key="row.contact_id" :class="{ chosen: row.contact_id === chosen }" :aria-label="row.contact">
      <span class="ruler soft small">{{
        row.waits ? short(row.waited.replace("less than a minute", "now")) : moment(row.local_since)
      }}</span>
      <div class="what">
        <p class="head">
          <RouterLink
            class="serif name"
            :to="{ name: 'replies', params: { contact: row.contact_id }, query }"
            :aria-current="row.contact_id === chosen ? 'true' : undefined"
            >{{ row.contact }}</RouterLink
          >
          <small class="soft">{{ [row.channel, row.assigned && `${row.assigned}’s`].filter(Boolean).join(", ") }}</small>
        </p>
        <p class="serif said" :class="{ whole: row.to_decide }">{{ row.text }}</p>
        <template v-if="row.to_decide">
          <p class="thrift small">
            <StateMark is="look" /> Reads like a refusal. What is to go to them by {{ row.channel }} waits until you decide.
          </p>
          <p v-if="may" class="acts">
            <BButton
              v-for="one in DECISIONS"
              :key="one.key"
              variant="link"
              :disabled="pending"
              :aria-label="`${one.words}: ${row.contact}`"
              @click="decide(row, one.out)"
              >{{ one.words }}</BButton
            >
          </p>
        </template>
        <small v-if="row.put_off" class="gorse"><StateMark is="waits" /> put off until {{ row.put_off }}</small>
        <small v-else-if="row.assistant" class="gorse"><StateMark is="waits" /> it {{ row.assistant }}</small>
        <small v-else-if="row.answered_by && !row.waits" class="soft">{{ BY[row.answered_by] }}</small>
      </div>
    </article>
  </section>
</template>

<style scoped>
h2 {
  font: 600 17px var(--serif);
  margin: 18px 0 0;
  padding: 0 0 4px 70px;
  border-bottom: 1px solid var(--ink);
}
article {
  display: grid;
  grid-template-columns: 58px minmax(0, 1fr);
  column-gap: 12px;
  padding-left: 6px;
  margin-left: -9px;
  border-left: 3px solid transparent;
}
article.chosen {
  background: var(--mist);
  border-left-color: var(--sea);
}
.ruler {
  text-align: right;
  padding-top: 9px;
}
.what {
  border-left: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding: 5px 0 8px 12px;
  min-width: 0;
}
p {
  margin: 0;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
}
.name {
  font-size: 17px;
}
.said {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.said.whole {
  white-space: normal;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  gap: 16px;
}
@media (max-width: 760px) {
  .acts :deep(button) {
    padding: 9px 4px;
  }
}
</style>
