<script setup lang="ts">
/** Who works for the practice: consultants, everybody who signs in, who has a second step; and helping whoever lost theirs. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import Ask from "@/ui/Ask.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import { hereAt, several } from "@/ui/words";

type One = Schemas["PracticePerson"];
type All = Schemas["PeopleOfPractice"];
const cache = useQueryClient();
const { data: all, ...read } = useQuery({ queryKey: ["practice-people"], queryFn: () => ok(api.GET("/api/practice/people")) });
const answered = (now: All) => cache.setQueryData(["practice-people"], now);
const { pending, act } = usePending();
const { pending: inviting, faults, act: actInvite } = usePending({ fields: ["email"] });
const asking = useAsking("invite");
const email = ref("");
const without = computed(() => all.value?.people.filter((one) => !one.second_step && !one.shut_out) ?? []);

async function invite() {
  const done = await actInvite(async () =>
    answered(await ok(api.POST("/api/practice/people/invitations", { body: { email: email.value } }))),
  );
  if (!done) return;
  tell(`${email.value} is invited: a link is on its way.`);
  asking.value = "";
  email.value = "";
}
const takeBack = (id: number) =>
  act(async () =>
    answered(await ok(api.DELETE("/api/practice/people/invitations/{invitation_id}", { params: { path: { invitation_id: id } } }))),
  );
const patch = (one: One, body: Schemas["PartIn"]) =>
  act(async () => answered(await ok(api.PATCH("/api/practice/people/{person_id}", { params: { path: { person_id: one.id } }, body }))));
function asConsultant(one: One, is: boolean) {
  sure({
    title: is ? `Make ${one.name} a consultant?` : `${one.name}, no consultant any more?`,
    words: is
      ? "Every account of the practice is open to them, with all rights."
      : `They keep ${one.accounts.length ? several(one.accounts) : "no account at all"}.`,
    act: is ? "Make them one" : "No consultant any more",
    yes: () => patch(one, { consultant: is }),
  });
}
function shutOut(one: One) {
  sure({
    title: `Shut ${one.name} out?`,
    words: "They sign in no more, and what they have open is dead at once. What they did stays, and they can be let in again.",
    act: "Shut them out",
    yes: () => patch(one, { shut_out: true }),
  });
}
function clearSteps(one: One) {
  sure({
    title: `Take ${one.name}’s second step away?`,
    words: "For when they have lost it. They sign in with their password alone, every session of theirs ends, and they are told by mail.",
    act: "Take it away",
    yes: () =>
      act(async () =>
        answered(await ok(api.DELETE("/api/practice/people/{person_id}/second-steps", { params: { path: { person_id: one.id } } }))),
      ),
  });
}
const demand = (demanded: boolean) => act(async () => answered(await ok(api.PUT("/api/practice/second-step", { body: { demanded } }))));
const COLUMNS: Column[] = [
  { key: "name", label: "Who", heads: true, class: "serif" },
  { key: "part", label: "Works as" },
  { key: "second_step", label: "Second step" },
  { key: "seen", label: "Last seen" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Who works here" about="everybody who signs in to the practice"
      ><BButton variant="primary" @click="asking = 'invite'">Invite a consultant</BButton></PageHead
    >
    <ReadState :of="read" what="Who works here">
      <template v-if="all">
        <DataTable caption="Who works here" :rows="all.people" :columns="COLUMNS" :row-class="(one: One) => one.shut_out && 'soft'">
          <template #name="{ item: one }"
            >{{ one.name }} <small class="soft">{{ one.email }}</small></template
          >
          <template #part="{ item: one }">{{
            one.shut_out ? "shut out" : one.consultant ? "consultant, in every account" : several(one.accounts) || "in no account"
          }}</template>
          <template #second_step="{ item: one }"
            ><StateMark is="done" v-if="one.second_step" /> {{ one.second_step ? "yes" : "none" }}</template
          >
          <template #seen="{ item: one }">{{ one.seen_at ? hereAt(one.seen_at) : "never" }}</template>
          <template #acts="{ item: one }"
            ><template v-if="one.you">you</template>
            <BButton v-else-if="one.shut_out" variant="link" @click="patch(one, { shut_out: false })">Let in again</BButton>
            <template v-else
              ><BButton v-if="one.second_step" variant="link" @click="clearSteps(one)">Lost their second step…</BButton>
              <BButton variant="link" @click="asConsultant(one, !one.consultant)">{{
                one.consultant ? "No consultant any more…" : "Make a consultant…"
              }}</BButton>
              <BButton variant="link" @click="shutOut(one)">Shut out…</BButton></template
            ></template
          >
        </DataTable>
        <ul v-if="all.invited.length" class="invited" aria-label="Invited">
          <li v-for="one in all.invited" :key="one.id">
            <StateMark is="waits" /> {{ one.email }} is invited as a consultant<template v-if="one.by"> by {{ one.by }}</template>
            <BButton variant="link" :disabled="pending" @click="takeBack(one.id)">Take back</BButton>
          </li>
        </ul>
        <h2>Signing in</h2>
        <p>
          A second step is
          <BFormCheckbox :model-value="all.demanded" :disabled="pending" inline class="mark" @update:model-value="demand($event === true)"
            >asked of everybody</BFormCheckbox
          >
          <span v-if="without.length" class="soft"
            >{{ several(without.map((one) => one.name)) }} {{ without.length === 1 ? "has" : "have" }} none yet: it is set up before
            anything else.</span
          >
        </p>
      </template>
    </ReadState>
    <Ask v-if="asking === 'invite'" v-slot="{ close }" title="Invite a consultant" @close="asking = ''">
      <form class="form" @submit.prevent="invite">
        <FormRow label="Email" :fault="faults.email" help="A link is mailed there. It holds for a week."
          ><BFormInput v-model.trim="email" type="email" required maxlength="254" autofocus
        /></FormRow>
        <p class="soft small">Every account of the practice is open to a consultant. For one account alone, invite to its team.</p>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="inviting">Invite</BButton
          ><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.invited {
  list-style: none;
  padding: 0;
}
.mark {
  margin: 0 8px;
}
</style>
