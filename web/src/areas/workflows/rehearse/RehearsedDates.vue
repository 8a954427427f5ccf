<script setup lang="ts">
/** The appointments that a rehearsed script goes by: given to who does not exist, and moved or cancelled on the way. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import { moment } from "@/ui/words";
import { duration } from "@/sentences/times";
import type { Rehearsing } from "./useRehearsal";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ rehearsal: Rehearsing; dates: Schemas["Dates"] }>();
const { contact, invented, moves } = props.rehearsal;
const after = ref("1 day");
const to = ref("");
const said = computed(() => duration(after.value));
const next = computed(() => props.dates.appointments[0]);
const target = computed({ get: () => to.value || next.value?.later || "", set: (at) => (to.value = at) });

function give(start: string) {
  invented.value = { ...invented.value, appointment: { type: props.dates.types[0] || "the appointment", start, id: "" } };
}
function happen(at: string | null) {
  if (next.value && said.value) moves.value = [...moves.value, { type: next.value.type, after: said.value, to: at }];
  to.value = "";
}
const takeBack = (index: number) => (moves.value = moves.value.filter((_, at) => at !== index));
</script>

<template>
  <section class="dates" aria-label="Appointment">
    <template v-if="next">
      <p class="tight">
        Has {{ next.type === "the appointment" ? "an appointment" : `“${next.type}”` }} on
        <MomentInPlace
          v-if="!contact && invented.appointment"
          :model-value="invented.appointment.start"
          label="the appointment is on"
          @update:model-value="give" /><template v-else>{{ next.when }}</template
        ><template v-if="!contact && invented.appointment">
          <button
            class="link small"
            @click="
              invented = { ...invented, appointment: null };
              moves = [];
            ">
            has none
          </button></template
        >
      </p>
      <ol v-if="moves.length">
        <li v-for="(one, index) in moves" :key="index">
          After {{ one.after }} it {{ one.to ? `moves to ${moment(one.to)}` : "is cancelled" }}.
          <button
            class="link small"
            :aria-label="`Take back: after ${one.after} it ${one.to ? 'moves' : 'is cancelled'}`"
            @click="takeBack(index)">
            take back
          </button>
        </li>
      </ol>
      <details class="small">
        <summary>What if it moves?</summary>
        <p>
          After <input v-model="after" class="after" aria-label="After how long it moves" @keydown.stop /> it moves to
          <MomentInPlace v-model="target" label="it moves to" />
        </p>
        <p class="row">
          <button type="button" class="plain" :disabled="!said" @click="happen(target)">Move it</button>
          <button type="button" class="link" :disabled="!said" @click="happen(null)">or it is cancelled</button>
        </p>
        <p v-if="!said" class="fault">Write how long after joining like “1 day” or “3 hours”.</p>
      </details>
    </template>
    <p v-else class="gorse small">
      <StateMark is="waits" /> Has no {{ dates.types[0] ? `“${dates.types[0]}”` : "appointment" }}: lines that go by it are left out.
      <button v-if="!contact" class="link" @click="give(dates.suggested)">Give them one</button>
    </p>
  </section>
</template>

<style scoped>
.dates {
  margin: 0 0 6px;
}
.after {
  width: 6.5em;
}
.tight {
  margin-bottom: 3px;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0 0 4px;
}
li {
  font-size: 14px;
  border-top: 1px solid var(--rule);
  padding: 4px 0;
}
</style>
