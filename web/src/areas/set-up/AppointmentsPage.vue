<script setup lang="ts">
/** Types of appointment: each in sentences, with the page that anybody books it on; when who gives them can be booked; the things
 * they need. */
import { useClipboard } from "@vueuse/core";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import EmptyState from "@/ui/EmptyState.vue";
import FormRow from "@/ui/FormRow.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import BusyCalendars from "./parts/BusyCalendars.vue";
import MemberHours from "./parts/MemberHours.vue";
import TypeLines from "./parts/TypeLines.vue";

type All = Schemas["AppointmentsOut"];
type Type = Schemas["TypeOut"];
const account = useAccount();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const touched = useTouched();
const { data: all, ...read } = useRead("/set-up/appointments");
const answered = useAnswered("/set-up/appointments");
const { pending, faults, act } = usePending({
  fields: [
    "minutes",
    "before",
    "after",
    "every",
    "begins",
    "weekdays",
    "on",
    "dates",
    "apart",
    "change_hours",
    "waiting_hours",
    "form",
    "soonest_hours",
    "ahead_days",
    "members",
    "things",
    "places",
    "place",
    "price",
    "about",
    "thanks",
    "name",
  ],
});
const { copy } = useClipboard({ legacy: true });
const name = ref("");
const thing = ref("");
/** Whose fault is shown: that of the type changed last. */
const at = ref(0);
const path = computed(() => ({ account: account.value }));

/** One after the other: what is changed while another change is on its way waits for it. */
let last: Promise<unknown> = Promise.resolve();
function change(call: () => Promise<All>, words = "Kept."): Promise<boolean> {
  const next = last.then(async () => {
    const done = await act(async () => answered(await call()));
    if (done) tell(words);
    void touched("/set-up/changes");
    return done;
  });
  last = next;
  return next;
}
const set = (one: Type, body: Schemas["TypeIn"]) =>
  change(() => {
    at.value = one.id;
    return ok(
      api.PATCH("/api/accounts/{account}/set-up/appointments/{type_id}", { params: { path: { ...path.value, type_id: one.id } }, body }),
    );
  });
async function make() {
  at.value = 0;
  const call = () =>
    ok(api.POST("/api/accounts/{account}/set-up/appointments", { params: { path: path.value }, body: { name: name.value } }));
  if (await change(call, `${name.value} is there. Say how long it takes, and who gives it.`)) name.value = "";
}
function drop(one: Type) {
  sure({
    title: `Take ${one.name} away?`,
    words: "Its page is gone. What was booked stays with whom it was booked for.",
    act: "Take it away",
    yes: () =>
      change(
        () =>
          ok(api.DELETE("/api/accounts/{account}/set-up/appointments/{type_id}", { params: { path: { ...path.value, type_id: one.id } } })),
        `${one.name} is taken away.`,
      ),
  });
}
const hours = (id: number, own: Schemas["OpeningHours"] | null) =>
  change(() =>
    ok(
      api.PUT("/api/accounts/{account}/set-up/appointments/hours/{person_id}", {
        params: { path: { ...path.value, person_id: id } },
        body: { hours: own },
      }),
    ),
  );
async function addThing() {
  const call = () => ok(api.POST("/api/accounts/{account}/set-up/things", { params: { path: path.value }, body: { name: thing.value } }));
  if (await change(call)) thing.value = "";
}
const dropThing = (id: number) =>
  change(() => ok(api.DELETE("/api/accounts/{account}/set-up/things/{thing_id}", { params: { path: { ...path.value, thing_id: id } } })));
async function take(one: Type) {
  await copy(one.url);
  tell(`The address of ${one.name} is copied.`);
}
</script>

<template>
  <div class="page">
    <PageHead title="Appointments" about="what can be booked, with whom, and when" />
    <ReadState :of="read" what="Appointments">
      <template v-if="all">
        <p v-if="!all.open && !all.members.some((one) => one.hours)" class="gorse">
          Nothing is free while no hours are set: say when the business is <RouterLink :to="{ name: 'hours' }">open</RouterLink>, or when
          somebody can be booked.
        </p>
        <template v-for="(one, n) in all.types" :key="one.id">
          <SetHead :title="one.name" :first="n === 0" />
          <TypeLines
            :type="one"
            :members="all.members"
            :things="all.things"
            :forms="all.forms"
            :faults="at === one.id ? faults : {}"
            :may="may"
            @change="set(one, $event)" />
          <SetLine>
            Its page
            <WordPart
              :value="one.open ? 'open' : 'closed'"
              :label="`${one.name}: its page`"
              :choices="[
                { value: 'open', words: 'takes bookings' },
                { value: 'closed', words: 'is closed' },
              ]"
              :disabled="!may"
              @keep="set(one, { open: $event === 'open' })" />.
            <template #depends
              ><a :href="one.url" target="_blank" rel="noopener" :aria-label="`See it: ${one.name}`">See it</a> ·
              <BButton variant="link" class="small" @click="take(one)">Copy its address</BButton>
              <template v-if="one.booked"> · {{ many(one.booked, "time") }} booked ahead</template>
              <template v-if="may">
                · <BButton variant="link" class="small" :disabled="pending" @click="drop(one)">Take it away…</BButton></template
              ></template
            >
          </SetLine>
        </template>
        <EmptyState v-if="!all.types.length"
          >No type yet. A trial lesson, a fitting, a class: name the first, and people can book it.</EmptyState
        >
        <form v-if="may" class="row new" @submit.prevent="make">
          <FormRow label="Another type" :fault="at === 0 ? faults.name : ''"
            ><BFormInput v-model.trim="name" required maxlength="120"
          /></FormRow>
          <BButton variant="outline-primary" type="submit" :disabled="!name">Add it</BButton>
        </form>
        <SetHead title="Who can be booked, and when" />
        <MemberHours v-for="one in all.members" :key="one.id" :member="one" :may="may" @keep="hours(one.id, $event)" />
        <EmptyState v-if="!all.members.length"
          >Nobody is in the team yet. A type that names nobody is given by the business as a whole.</EmptyState
        >
        <BusyCalendars :members="all.members" />
        <SetHead title="What can be taken once" />
        <SetLine v-for="one in all.things" :key="one.id"
          ><span>{{ one.name }}&nbsp; </span
          ><template v-if="may">
            <BButton variant="link" class="small" :aria-label="`Take out ${one.name}`" :disabled="pending" @click="dropThing(one.id)"
              >take out</BButton
            ></template
          ></SetLine
        >
        <form v-if="may" class="row new" @submit.prevent="addThing">
          <FormRow label="A room, a boat, a kiln"><BFormInput v-model.trim="thing" required maxlength="120" /></FormRow>
          <BButton variant="outline-primary" type="submit" :disabled="!thing">Add it</BButton>
        </form>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.new {
  align-items: end;
  margin: 10px 0 4px;
}
.new input {
  width: 16rem;
}
</style>
