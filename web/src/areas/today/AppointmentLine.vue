<script setup lang="ts">
/** One appointment of a day: when, who, what; and once it has begun, whether they came, by one key. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useSettle } from "@/shared/booking/useSettle";
import StateMark from "@/ui/StateMark.vue";
import { clockTime, dayOf } from "@/ui/words";

const props = defineProps<{ one: Schemas["AppointmentRow"]; today: string; may: boolean; mayMove: boolean }>();
defineEmits<{ move: [] }>();
const { pending, settle } = useSettle();
const stands = computed(() => props.one.state === "booked" || props.one.state === "confirmed");
/** Somebody may have two on one day: what is read out tells them apart. */
const whose = computed(
  () =>
    `${props.one.contact}, ${props.one.local_start < props.today ? `${dayOf(props.one.local_start)} ` : ""}${clockTime(props.one.local_start)}`,
);
function onKey(event: KeyboardEvent) {
  if (!props.may || !stands.value || !props.one.over || event.target !== event.currentTarget) return;
  if (event.key === "a") void settle(props.one.id, props.one.contact, "attended");
  else if (event.key === "m") void settle(props.one.id, props.one.contact, "missed");
  else return;
  event.preventDefault();
}
</script>

<template>
  <div
    class="appointment row"
    :tabindex="stands && one.over ? 0 : undefined"
    role="group"
    :title="stands && one.over ? 'a: they came; m: they did not' : undefined"
    :aria-label="`${whose}, ${one.type}`"
    @keydown="onKey">
    <span class="at"
      ><small v-if="one.local_start < today" class="soft">{{ dayOf(one.local_start) }}<br /></small>{{ clockTime(one.local_start) }}</span
    >
    <span class="grow"
      ><RouterLink class="serif name" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink>
      <a v-if="one.mobile" class="small number" :href="`tel:${one.mobile}`">{{ one.number }}</a><br /><small class="soft"
        >{{ one.type }}<template v-if="one.place">, {{ one.place }}</template
        ><template v-if="one.member"> · {{ one.member }}</template></small
      ></span
    >
    <small v-if="one.state === 'attended'" class="kelp"><StateMark is="done" /> came</small>
    <small v-else-if="one.state === 'missed'" class="rust"><StateMark is="failed" /> did not come</small>
    <template v-else>
      <small v-if="one.state === 'confirmed'" class="kelp"><StateMark is="done" /> confirmed</small>
      <span v-if="may && one.over" class="outcomes">
        <BButton
          variant="outline-primary"
          :disabled="pending"
          :aria-label="`Came: ${whose}`"
          @click="settle(one.id, one.contact, 'attended')"
          >Came</BButton
        >
        <BButton
          variant="outline-primary"
          :disabled="pending"
          :aria-label="`Did not come: ${whose}`"
          @click="settle(one.id, one.contact, 'missed')"
          >Did not come</BButton
        >
      </span>
      <BButton v-else-if="mayMove" variant="link" class="small" :aria-label="`Move… ${whose}`" @click="$emit('move')">Move…</BButton>
    </template>
  </div>
</template>

<style scoped>
.appointment {
  border-bottom: 1px solid var(--rule);
  padding: 7px 0;
  align-items: start;
}
.appointment:focus-visible {
  outline: 3px solid var(--sea);
}
.at {
  width: 4.6rem;
  font-weight: 600;
}
.name,
.number {
  display: inline-block;
  min-height: 26px;
}
.number {
  margin-left: 8px;
}
</style>
