<script setup lang="ts">
/** An appointment for somebody: its type, who gives it, and a time that is free, or another at which nobody is booked twice. For one
 * that there is (`moving`), another time. */
import { computed, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import ContactPick from "@/shared/ContactPick.vue";
import Ask from "@/ui/Ask.vue";
import EmptyState from "@/ui/EmptyState.vue";
import FormRow from "@/ui/FormRow.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { dayOf as dayWords, moment } from "@/ui/words";

const props = defineProps<{
  contact?: { id: number; name: string };
  moving?: { id: number; type: string; contact: string; local_start: string };
  /** A local moment that was pointed at, and whose column it was. */
  at?: string;
  member?: number;
}>();
const emit = defineEmits<{ close: []; done: [] }>();
const account = useAccount();
const touched = useTouched();
const { data: details } = useAccountDetails();
const { data: types, ...typesRead } = useRead("/appointments/types");
const { pending, act } = usePending();

const who = ref<number | undefined>(props.contact?.id);
const type = ref(0);
const giver = ref(props.member ?? 0);
const today = computed(() => details.value?.local_now.slice(0, 10) ?? "");
const from = ref(props.at?.slice(0, 10) ?? "");
const chosen = ref("");
const other = ref(Boolean(props.at));
const otherAt = ref(props.at?.slice(0, 16) ?? "");
const toTell = ref(true);
watch(
  types,
  (now) => {
    if (!type.value) type.value = (props.moving ? now?.find((one) => one.name === props.moving?.type) : now?.[0])?.id ?? 0;
  },
  { immediate: true },
);
watch(today, (day) => (from.value ||= day), { immediate: true });
watch([type, giver, from], () => (chosen.value = ""));
const one = computed(() => types.value?.find((each) => each.id === type.value));
const { data: free, ...freeRead } = useRead(
  "/appointments/free",
  () => ({
    query: { type: type.value, start: from.value || today.value, ...(props.moving && { appointment: props.moving.id }) },
  }),
  { enabled: () => type.value > 0 && today.value !== "", staleTime: 0 },
);
const days = computed(() =>
  Object.entries(free.value?.days ?? {})
    .map(([day, times]) => ({
      day,
      times: times.filter((time) => time.left > 0 && (!giver.value || !time.members.length || time.members.includes(giver.value))),
    }))
    .filter((each) => each.times.length),
);
const { data: named } = useRead("/contacts/{contact_id}", () => ({ path: { contact_id: who.value ?? 0 } }), {
  enabled: () => Boolean(who.value),
});
const name = computed(() => props.moving?.contact ?? props.contact?.name ?? named.value?.name ?? "");
const when = computed(() => (other.value ? otherAt.value : chosen.value));
const says = computed(() => {
  if (!when.value) return props.moving ? "Move it" : "Book it";
  return props.moving
    ? `Move it to ${moment(when.value)}`
    : `Book ${one.value?.name ?? ""}${name.value ? ` for ${name.value}` : ""}, ${moment(when.value)}`;
});
async function keep() {
  const body = { at: when.value, member: giver.value || null };
  const done = await act(async () => {
    if (props.moving) {
      const path = { account: account.value, appointment_id: props.moving.id };
      const moved = await ok(
        api.POST("/api/accounts/{account}/appointments/{appointment_id}/move", { params: { path }, body: { ...body, tell: toTell.value } }),
      );
      tell(`${name.value}: moved to ${moved.words}.`);
    } else {
      const path = { account: account.value, contact_id: who.value ?? 0 };
      const made = await ok(
        api.POST("/api/accounts/{account}/contacts/{contact_id}/appointments", { params: { path }, body: { ...body, type: type.value } }),
      );
      tell(`${name.value}: ${made.type}, ${made.words}.`);
    }
  });
  if (done) emit("done");
  void touched("everything");
}
const hasType = (some: Schemas["BookableOut"][]) => some.length > 0 && (!props.moving || Boolean(one.value));
</script>

<template>
  <Ask v-slot="{ close }" :title="moving ? `Another time for ${moving.contact}` : 'Book an appointment'" wide @close="$emit('close')">
    <ReadState :of="typesRead" what="Types of appointment">
      <EmptyState v-if="types && !hasType(types)"
        >{{ moving ? `“${moving.type}” is no type that is kept here: its times are not known.` : "There is no type of appointment yet." }}
        <RouterLink :to="{ name: 'appointments' }">Types are kept in Set-up</RouterLink>.</EmptyState
      >
      <form v-else-if="types" @submit.prevent="keep">
        <div class="row heads">
          <FormRow v-if="!moving" label="Type"
            ><BFormSelect v-model="type"
              ><option v-for="each in types" :key="each.id" :value="each.id">{{ each.name }}</option></BFormSelect
            ></FormRow
          >
          <FormRow v-if="(one?.members.length ?? 0) > 1" label="With"
            ><BFormSelect v-model="giver"
              ><option :value="0">whoever is free</option>
              <option v-for="each in one?.members" :key="each.id" :value="each.id">{{ each.name }}</option></BFormSelect
            ></FormRow
          >
          <FormRow v-if="!other" label="From"><BFormInput v-model="from" type="date" :min="today" /></FormRow>
          <p v-if="!contact && !moving" class="for">for <ContactPick v-model="who" no-invented :name="name" /></p>
        </div>
        <template v-if="!other">
          <ReadState :of="freeRead" what="Free times">
            <div class="free" role="radiogroup" aria-label="Free times">
              <section v-for="each in days" :key="each.day">
                <h3>{{ dayWords(each.day) }}</h3>
                <div class="times">
                  <BFormRadio
                    v-for="time in each.times"
                    :key="time.at"
                    v-model="chosen"
                    button
                    button-variant="outline-primary"
                    name="time"
                    :value="time.at"
                    >{{ time.words }}<small v-if="one && one.places > 1"> {{ time.left }} left</small></BFormRadio
                  >
                </div>
              </section>
              <p v-if="free && !days.length" class="soft">
                Nothing is free in these two weeks<template v-if="free.beyond"
                  >; the next is <BButton variant="link" @click="from = free.beyond ?? ''">{{ dayWords(free.beyond) }}</BButton></template
                >.
              </p>
            </div>
          </ReadState>
          <p class="small"><BButton variant="link" @click="other = true">At another time…</BButton></p>
        </template>
        <template v-else>
          <FormRow label="At" help="Also outside the hours, as long as nobody is booked twice."
            ><BFormInput v-model="otherAt" type="datetime-local" required
          /></FormRow>
          <p class="small"><BButton variant="link" @click="other = false">See what is free</BButton></p>
        </template>
        <p v-if="one && one.dates > 1" class="small soft">A course: all its {{ one.dates }} dates are booked as one.</p>
        <p v-if="moving">
          <BFormCheckbox v-model="toTell">Tell {{ moving.contact }} at once</BFormCheckbox>
        </p>
        <div class="row">
          <BButton variant="primary" type="submit" :disabled="pending || !when || (!moving && !who)">{{ says }}</BButton>
          <BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </ReadState>
  </Ask>
</template>

<style scoped>
.heads {
  align-items: end;
  flex-wrap: wrap;
}
.for {
  margin: 0 0 6px;
}
.free {
  max-height: 44vh;
  overflow: auto;
  border-top: 1px solid var(--ink);
  margin-top: 10px;
}
section {
  display: grid;
  grid-template-columns: 11rem minmax(0, 1fr);
  border-bottom: 1px solid var(--rule);
  padding: 7px 0;
}
h3 {
  font: 600 15px var(--sans);
  margin: 4px 0 0;
}
.times {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
@media (max-width: 600px) {
  section {
    display: block;
  }
}
</style>
