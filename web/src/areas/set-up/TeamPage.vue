<script setup lang="ts">
/** The team: roles, what somebody is responsible for, who is away and who stands in, inviting, and leaving. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import WordPart from "@/shared/settings/WordPart.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import InviteAsk from "./parts/InviteAsk.vue";
import LeaveAsk from "./parts/LeaveAsk.vue";

type Member = Schemas["MemberOut"];
const account = useAccount();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const touched = useTouched();
const { data: team, ...read } = useRead("/set-up/team");
const answered = useAnswered("/set-up/team");
const { pending, act } = usePending();
const asking = useAsking("invite");
const leaving = ref<Member>();
const ROLES = [
  { value: "manager", words: "manager" },
  { value: "team", words: "team member" },
  { value: "viewer", words: "viewer" },
];
async function change(one: Member, body: Schemas["MemberIn"]) {
  const path = { account: account.value, person_id: one.id };
  const done = await act(async () =>
    answered(await ok(api.PATCH("/api/accounts/{account}/set-up/team/{person_id}", { params: { path }, body }))),
  );
  if (done) tell("Kept.");
  void touched("/set-up/changes", "/set-up/team");
}
async function takeBack(id: number) {
  const path = { account: account.value, invitation_id: id };
  const call = api.DELETE("/api/accounts/{account}/set-up/team/invitations/{invitation_id}", { params: { path } });
  if (await act(async () => answered(await ok(call)))) tell("The invitation is taken back: its link opens nothing.");
}
const standIns = (one: Member) => [
  { value: "", words: "nobody" },
  ...(team.value?.members ?? []).filter((other) => other.id !== one.id).map((other) => ({ value: String(other.id), words: other.name })),
];
const rightColumns = computed<Column[]>(() => [
  { key: "words", label: "May", heads: true, class: "serif" },
  ...(team.value?.roles ?? []).map((role) => ({ key: role.name, label: role.words })),
]);
const COLUMNS: Column[] = [
  { key: "name", label: "Who", heads: true, class: "serif" },
  { key: "role", label: "Works as" },
  { key: "responsible_for", label: "Responsible for" },
  { key: "away", label: "Away" },
  { key: "holds", label: "Has in hand" },
  { key: "seen", label: "Last seen" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <PageHead title="The team" about="who works in this account"
      ><BButton v-if="may" variant="primary" @click="asking = 'invite'">Invite somebody</BButton></PageHead
    >
    <ReadState :of="read" what="The team">
      <template v-if="team">
        <DataTable caption="The team" :rows="team.members" :columns="COLUMNS">
          <template #name="{ item: one }"
            >{{ one.name }}<template v-if="one.you"> (you)</template><small class="soft address">{{ one.email }}</small></template
          >
          <template #role="{ item: one }"
            ><template v-if="one.role === 'consultant' || one.you">{{ one.role === "team" ? "team member" : one.role }}</template
            ><WordPart
              v-else
              :value="one.role"
              :label="`${one.name} works as`"
              :choices="ROLES"
              :disabled="!may || pending"
              @keep="change(one, { role: $event as 'team' })"
          /></template>
          <template #responsible_for="{ item: one }"
            ><WordPart
              v-if="one.role !== 'consultant'"
              :value="one.responsible_for"
              :label="`What ${one.name} is responsible for`"
              empty="nothing said"
              :disabled="!may"
              @keep="change(one, { responsible_for: $event })"
          /></template>
          <template #away="{ item: one }">
            <span :class="{ gorse: one.away }"
              ><StateMark is="waits" v-if="one.away" />
              <WordPart
                :value="one.away_from"
                :label="`${one.name}: first day away`"
                type="date"
                empty="here"
                :disabled="!may"
                @keep="change(one, { away_from: $event || null })" /><template v-if="one.away_from"
                >&nbsp;to
                <WordPart
                  :value="one.away_until"
                  :label="`${one.name}: last day away`"
                  type="date"
                  empty="open"
                  :disabled="!may"
                  @keep="change(one, { away_until: $event || null })" /></template
            ></span>
            <small v-if="one.role !== 'consultant'" class="soft stand"
              >stands in:
              <WordPart
                :value="one.stand_in ? String(one.stand_in) : ''"
                :label="`Who stands in for ${one.name}`"
                :choices="standIns(one)"
                :disabled="!may"
                @keep="change(one, { stand_in: $event ? Number($event) : null })"
            /></small>
          </template>
          <template #holds="{ item: one }">{{ one.holds || "nothing" }}</template>
          <template #seen="{ item: one }">{{ one.seen || "never" }}</template>
          <template #acts="{ item: one }"
            ><BButton v-if="may && !one.you && one.role !== 'consultant'" variant="link" @click="leaving = one">Leaves…</BButton></template
          >
        </DataTable>
        <ul v-if="team.invited.length" class="invited" aria-label="Invited">
          <li v-for="one in team.invited" :key="one.id">
            <StateMark is="waits" /> {{ one.email }} is invited as {{ one.role === "team" ? "team member" : one.role
            }}<template v-if="one.by"> by {{ one.by }}</template
            >. <span class="soft">The link holds for {{ many(one.days, "more day") }}.</span>
            <BButton v-if="may" variant="link" :disabled="pending" @click="takeBack(one.id)">Take back</BButton>
          </li>
        </ul>
        <h2>Who may do what</h2>
        <DataTable caption="What each role may do" :rows="team.rights" :columns="rightColumns">
          <template #words="{ item: right }">{{ right.words }}</template>
          <template v-for="role in team.roles" :key="role.name" #[role.name]="{ item: right }">
            <template v-if="role.may.includes(right.name)"><StateMark is="done" /> yes</template><span v-else class="soft">no</span>
          </template>
        </DataTable>
      </template>
    </ReadState>
    <InviteAsk v-if="asking === 'invite'" :roles="ROLES" @close="asking = ''" />
    <LeaveAsk
      v-if="leaving"
      :member="leaving"
      :others="team?.members.filter((one) => one.id !== leaving?.id) ?? []"
      @close="leaving = undefined" />
  </div>
</template>

<style scoped>
.address,
.stand {
  display: block;
  font-family: var(--sans);
}
.invited {
  list-style: none;
  padding: 0;
  margin: 14px 0;
}
h2 {
  font-size: 19px;
  margin-top: 26px;
}
</style>
