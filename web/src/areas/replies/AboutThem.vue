<script setup lang="ts">
/** The person beside what they say: what is under way with them, and how they may be reached. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { money, moment } from "@/ui/words";

const props = defineProps<{ contact: Schemas["ContactRow"] }>();
const at = () => ({ path: { contact_id: props.contact.id } });
const { data: deals, ...dealsRead } = useRead("/contacts/{contact_id}/deals", at, { live: true });
const { data: enrolments, ...enrolmentsRead } = useRead("/contacts/{contact_id}/enrolments", at, { live: true });
const { data: appointments, ...appointmentsRead } = useRead("/contacts/{contact_id}/appointments", at, { live: true });
const open = computed(() => deals.value?.deals.filter((one) => one.state === "open") ?? []);
const inside = computed(() => enrolments.value?.filter((one) => !one.ended) ?? []);
const coming = computed(() => appointments.value?.filter((one) => ["booked", "confirmed"].includes(one.state)) ?? []);
const name = computed(() => props.contact.first_name || props.contact.name);
</script>

<template>
  <aside :aria-label="`About ${name}`">
    <h2>About {{ name }}</h2>
    <p class="soft small">here since {{ contact.added }}</p>
    <ReadState :of="[dealsRead, enrolmentsRead, appointmentsRead]" :what="`What is known of ${name}`">
      <dl>
        <dt>Deals</dt>
        <dd v-for="one in open" :key="one.id">
          <RouterLink :to="{ name: 'deal', params: { deal: one.id } }">{{ one.name }}</RouterLink>
          {{ money(Number(one.value), deals?.currency ?? "GBP") }}, {{ one.stage }}
        </dd>
        <dd v-if="!open.length" class="soft">none open</dd>
        <dt>In the diary</dt>
        <dd v-for="one in coming" :key="one.id">{{ one.type }}, {{ moment(one.local_start) }}</dd>
        <dd v-if="!coming.length" class="soft">nothing yet</dd>
        <dt>Inside</dt>
        <dd v-for="one in inside" :key="one.id">
          <RouterLink :to="{ name: 'workflow', params: { workflow: one.workflow_id } }">{{ one.workflow }}</RouterLink>
          <span class="gorse"
            >{{ one.where.replace(/\.$/, "") }}<template v-if="one.until"> until {{ one.until }}</template></span
          >
        </dd>
        <dd v-if="!inside.length" class="soft">no workflow</dd>
        <template v-if="contact.score !== null"
          ><dt>Lead score</dt>
          <dd>{{ Math.round(contact.score) }}</dd></template
        >
        <template v-if="contact.tags.length"
          ><dt>Tags</dt>
          <dd>{{ contact.tags.join(", ") }}</dd></template
        >
        <dt>Consent</dt>
        <dd v-for="one in contact.said.filter((said) => said.purpose === 'marketing')" :key="one.channel">
          <StateMark :is="one.state === 'withdrawn' ? 'failed' : 'done'" /> {{ one.channel }}: {{ one.how }}
        </dd>
        <dd v-if="!contact.said.length" class="soft">said nothing</dd>
        <dt>Responsible</dt>
        <dd>{{ contact.responsible || "nobody" }}</dd>
      </dl>
    </ReadState>
    <p>
      <RouterLink :to="{ name: 'contact', params: { contact: contact.id } }"
        >Everything about {{ name }}, and why they were asked</RouterLink
      >
    </p>
  </aside>
</template>

<style scoped>
h2 {
  font: 600 18px var(--serif);
  margin: 0;
}
dl {
  margin: 10px 0;
}
dt {
  font-weight: 400;
  color: var(--soft);
  font-size: 13px;
  border-top: 1px solid var(--rule);
  padding-top: 6px;
  margin-top: 8px;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
dd > span.gorse {
  display: block;
}
</style>
