<script setup lang="ts">
/** Somebody of the team cannot come on some days: what would become of each appointment, before it is done. */
import { computed, ref } from "vue";

import { api, ok } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, several } from "@/ui/words";

const props = defineProps<{ members: { id: number; name: string }[]; day: string }>();
const emit = defineEmits<{ close: []; done: [] }>();
const account = useAccount();
const touched = useTouched();
const { pending, act } = usePending();
const member = ref(props.members[0]?.id ?? 0);
const first = ref(props.day);
const last = ref(props.day);
const why = ref("");
const toTell = ref(true);
const { data: found, ...read } = useRead(
  "/appointments/away",
  () => ({ query: { member: member.value, first: first.value, last: last.value < first.value ? first.value : last.value } }),
  { enabled: () => member.value > 0 && first.value !== "", staleTime: 0 },
);
const name = computed(() => props.members.find((one) => one.id === member.value)?.name ?? "");
const gone = computed(() => found.value?.filter((one) => !one.by).length ?? 0);
const given = computed(() => (found.value?.length ?? 0) - gone.value);
async function carryOut() {
  const until = last.value < first.value ? first.value : last.value;
  const body = { member: member.value, first: first.value, last: until, why: why.value, tell: toTell.value };
  const done = await act(() =>
    ok(api.POST("/api/accounts/{account}/appointments/away", { params: { path: { account: account.value } }, body })),
  );
  void touched("everything");
  if (!done) return;
  tell(`${name.value} is away: ${given.value} given by another, ${gone.value} called off.`);
  emit("done");
}
</script>

<template>
  <Ask v-slot="{ close }" title="Somebody cannot come" wide @close="$emit('close')">
    <form @submit.prevent="carryOut">
      <div class="row heads">
        <FormRow label="Who"
          ><BFormSelect v-model="member"
            ><option v-for="one in members" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
        <FormRow label="From"><BFormInput v-model="first" type="date" required /></FormRow>
        <FormRow label="Until"><BFormInput v-model="last" type="date" :min="first" required /></FormRow>
        <FormRow label="Why, as they read it"><BFormInput v-model.trim="why" maxlength="120" placeholder="Mel is ill" /></FormRow>
      </div>
      <ReadState :of="read" what="What it touches">
        <template v-if="found">
          <p v-if="!found.length" class="soft">Nothing of {{ name }} stands on these days. Nobody can book them then.</p>
          <div v-for="(one, n) in found" :key="n" class="row one">
            <span class="at">{{ one.words }}</span>
            <span class="grow"
              ><span class="serif">{{ one.type }}</span
              ><br /><small class="soft">{{ several(one.people) }}</small></span
            >
            <small v-if="one.by" class="kelp"><StateMark is="done" /> {{ one.by }} gives it</small>
            <small v-else class="rust"><StateMark is="failed" /> called off: nobody else is free</small>
          </div>
        </template>
      </ReadState>
      <p v-if="found?.length"><BFormCheckbox v-model="toTell">Tell each at once what became of theirs</BFormCheckbox></p>
      <div class="row">
        <BButton variant="primary" type="submit" :disabled="pending || !found">{{
          found?.length ? `${many(given, "appointment")} to others, call off ${gone}` : `${name} cannot be booked then`
        }}</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.heads {
  flex-wrap: wrap;
  align-items: end;
  margin-bottom: 12px;
}
.one {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
  align-items: start;
}
.at {
  width: 9rem;
}
</style>
