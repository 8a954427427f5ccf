<script setup lang="ts">
/** Day by day: what will go out by itself, the team's tasks, appointments. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useAccountDetails } from "@/queries/session";
import StateMark from "@/ui/StateMark.vue";
import { dayOf, many } from "@/ui/words";

const props = defineProps<{ days: Schemas["DiaryDay"][]; today: string }>();
const { data: details } = useAccountDetails();
const oneOf = (what: string) => details.value?.channels.find((channel) => channel.name === what)?.one ?? what;
const COLOURS: Record<string, string> = {
  sea: "var(--sea)",
  thrift: "var(--thrift)",
  gorse: "var(--gorse)",
  kelp: "var(--kelp)",
  rust: "var(--rust)",
  ink: "var(--ink)",
};
const shown = computed(() => props.days.filter((one) => one.outlook.length || one.items.length || one.sent || one.day === props.today));
</script>

<template>
  <div class="days" role="list">
    <section
      v-for="one in shown"
      :key="one.day"
      role="listitem"
      class="date"
      :class="{ today: one.day === today, past: one.day < today }"
      :aria-label="dayOf(one.day)">
      <h2 :class="{ gorse: one.holiday }">
        {{ dayOf(one.day) }}<small v-if="one.day === today"> · today</small><small v-if="one.holiday"> · {{ one.holiday }}</small>
      </h2>
      <p v-if="one.sent" class="kelp small"><StateMark is="done" /> {{ one.sent }} sent</p>
      <p
        v-for="row in one.outlook"
        :key="`${row.workflow_id}${row.channel}${row.name}`"
        class="out"
        :style="{ borderColor: COLOURS[row.colour] ?? 'var(--rule)' }">
        <span class="small soft">{{ row.at }}</span>
        <span :class="{ thrift: !row.channel }">{{ many(row.count, oneOf(row.channel || "task")) }}</span>
        <RouterLink class="serif" :to="{ name: 'workflow', params: { workflow: row.workflow_id } }" :title="row.workflow">{{
          row.name
        }}</RouterLink>
      </p>
      <p v-for="(item, index) in one.items" :key="index" class="item">
        <span class="small soft">{{ item.at }}</span>
        <span :class="item.kind === 'appointment' ? 'sea' : 'thrift'">{{ item.kind === "to_do" ? "to-do" : item.kind }}</span>
        <RouterLink :to="{ name: 'contact', params: { contact: item.contact_id } }">{{ item.contact }}</RouterLink>
        <span class="small soft">{{ item.title }}</span>
        <small v-if="item.unwanted" class="rust"><StateMark is="failed" /> {{ item.unwanted }}</small>
      </p>
      <p v-if="!one.outlook.length && !one.items.length && !one.sent" class="soft small">nothing</p>
    </section>
  </div>
</template>

<style scoped>
.days {
  border-top: 1px solid var(--ink);
}
.date {
  border-bottom: 1px solid var(--rule);
  padding: 9px 0;
  max-width: 46em;
}
.date h2 {
  font: 600 13px var(--sans);
  margin-bottom: 4px;
}
.date h2 small {
  font-weight: 400;
}
.today {
  background: var(--mist);
  padding-left: 10px;
  margin-left: -10px;
  box-shadow: inset 3px 0 0 var(--sea);
}
.past h2 {
  color: var(--soft);
}
.out,
.item {
  margin: 3px 0;
  font-size: 14px;
  line-height: 1.35;
  overflow-wrap: anywhere;
}
.out {
  border-left: 3px solid var(--rule);
  padding-left: 6px;
}
.item {
  padding-left: 9px;
}
.sea {
  color: var(--sea);
}
</style>
