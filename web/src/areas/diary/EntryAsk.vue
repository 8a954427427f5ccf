<script setup lang="ts">
/** One appointment of the calendar, or a class with who is in it: to be moved, settled for each, given by somebody else, called off. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useSettle } from "@/shared/booking/useSettle";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";

const props = defineProps<{
  entry: Schemas["EntryOut"];
  members: Schemas["GivesOut"][];
  now: string;
  mayMove: boolean;
  maySettle: boolean;
  /** Where it was dragged to: it is asked whether to tell them. */
  to?: { at: string; member: number | null };
}>();
const emit = defineEmits<{ close: []; done: [] }>();
const account = useAccount();
const touched = useTouched();
const { pending, act } = usePending();
const { pending: settling, settle } = useSettle();
const at = ref((props.to?.at ?? props.entry.start).slice(0, 16));
const member = ref(props.to?.member ?? props.entry.member ?? 0);
const toTell = ref(true);
const why = ref("");
const callingOff = ref(false);
const stands = computed(() => props.entry.people.filter((one) => one.state === "booked" || one.state === "confirmed"));
const whom = computed(() => (stands.value.length === 1 ? (stands.value[0]?.contact ?? "") : `all ${stands.value.length}`));
const isOver = computed(() => props.entry.start <= props.now);
const canMove = computed(() => props.mayMove && props.entry.sitting !== null && !isOver.value && stands.value.length > 0);
const changed = computed(() => at.value !== props.entry.start.slice(0, 16) || member.value !== (props.entry.member ?? 0));
const about = computed(() => [
  ...(props.entry.place ? [`${props.entry.place}.`] : []),
  ...(props.entry.places > 1 ? [`${props.entry.people.length} of ${many(props.entry.places, "place")} taken.`] : []),
  ...(props.entry.waiting ? [`${many(props.entry.waiting, "person waits", "people wait")} for one.`] : []),
]);
const SAID: Record<string, string> = { booked: "booked", confirmed: "confirmed", missed: "did not come", attended: "came" };
async function move() {
  const path = { account: account.value, sitting_id: props.entry.sitting ?? 0 };
  const body = { at: at.value, member: member.value && member.value !== props.entry.member ? member.value : null, tell: toTell.value };
  const done = await act(() => ok(api.POST("/api/accounts/{account}/sittings/{sitting_id}/move", { params: { path }, body })));
  void touched("everything");
  if (!done) return;
  tell(`${props.entry.type}: moved to ${moment(at.value)}.`);
  emit("done");
}
async function callOff() {
  const path = { account: account.value, sitting_id: props.entry.sitting ?? 0 };
  const body = { tell: toTell.value, why: why.value };
  const done = await act(() => ok(api.POST("/api/accounts/{account}/sittings/{sitting_id}/call-off", { params: { path }, body })));
  void touched("everything");
  if (!done) return;
  tell(`${props.entry.type}, ${moment(props.entry.start)}: called off.`);
  emit("done");
}
async function say(one: Schemas["InIt"], state: "attended" | "missed" | "cancelled") {
  if ((await settle(one.appointment, one.contact, state)) && props.entry.people.length === 1) emit("done");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="`${entry.type}, ${moment(entry.start)}`" wide @close="$emit('close')">
    <p class="soft">{{ about.join(" ") }}</p>
    <div v-for="one in entry.people" :key="one.appointment" class="row person">
      <RouterLink class="serif grow" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink>
      <small :class="one.state === 'missed' ? 'rust' : 'soft'"
        ><StateMark is="done" v-if="one.state === 'attended'" /> {{ SAID[one.state] ?? one.state }}</small
      >
      <template v-if="maySettle && (one.state === 'booked' || one.state === 'confirmed')">
        <template v-if="isOver">
          <BButton variant="link" :disabled="settling" :aria-label="`Came: ${one.contact}`" @click="say(one, 'attended')">Came</BButton>
          <BButton variant="link" :disabled="settling" :aria-label="`Did not come: ${one.contact}`" @click="say(one, 'missed')"
            >Did not come</BButton
          >
        </template>
        <BButton v-else variant="link" :disabled="settling" :aria-label="`Cancel ${one.contact}`" @click="say(one, 'cancelled')"
          >Cancel</BButton
        >
      </template>
    </div>
    <form v-if="canMove && !callingOff" class="move" @submit.prevent="move">
      <div class="row">
        <FormRow label="At"><BFormInput v-model="at" type="datetime-local" required autofocus /></FormRow>
        <FormRow v-if="members.length > 1" label="With"
          ><BFormSelect v-model="member"
            ><option v-if="!entry.member" :value="0">the business</option>
            <option v-for="one in members" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
      </div>
      <BFormCheckbox v-model="toTell">Tell {{ whom }} at once, by the channel they would rather hear on</BFormCheckbox>
      <div class="row">
        <BButton variant="primary" type="submit" :disabled="pending || !changed">Move {{ whom }} to {{ moment(at) }}</BButton>
        <BButton variant="outline-primary" :disabled="pending" @click="callingOff = true">Call it off…</BButton>
        <BButton variant="link" @click="close">Leave it</BButton>
      </div>
    </form>
    <form v-else-if="callingOff" class="move" @submit.prevent="callOff">
      <FormRow label="Why, as they read it"
        ><BFormInput v-model.trim="why" maxlength="120" placeholder="Storm warning" autofocus
      /></FormRow>
      <BFormCheckbox v-model="toTell">Tell {{ whom }} at once, with the page to choose another time</BFormCheckbox>
      <div class="row">
        <BButton variant="primary" type="submit" :disabled="pending">Call it off for {{ whom }}</BButton>
        <BButton variant="link" @click="callingOff = false">Not now</BButton>
      </div>
    </form>
    <BButton v-else variant="link" @click="close">Close</BButton>
  </Ask>
</template>

<style scoped>
.person {
  border-bottom: 1px solid var(--rule);
  padding: 4px 0;
}
.move {
  display: grid;
  gap: 10px;
  margin-top: 14px;
}
</style>
