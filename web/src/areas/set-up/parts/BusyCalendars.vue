<script setup lang="ts">
/** Calendars that go out, by secret addresses, and calendars that come in, in which members are busy elsewhere. */
import { useClipboard } from "@vueuse/core";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import FormRow from "@/ui/FormRow.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

type All = Schemas["CalendarsOut"];
const props = defineProps<{ members: Schemas["GiverOut"][] }>();
const account = useAccount();
const may = useMay();
const { data: all, ...read } = useRead("/calendars");
const answered = useAnswered("/calendars");
const { pending, act } = usePending();
const { copy } = useClipboard({ legacy: true });
const path = computed(() => ({ account: account.value }));
const address = ref("");
const member = ref(0);
const url = ref("");
const file = ref<HTMLInputElement>();
const whose = computed(() => member.value || props.members[0]?.id || 0);
const FEEDS = [
  { of: "own", words: "Your own appointments", may: "people" },
  { of: "all", words: "All appointments of the account", may: "set-up" },
] as const;

const change = (call: () => Promise<All>) => act(async () => answered({ ...(await call()), address: "" }));
async function make(of: "own" | "all") {
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/calendars", { params: { path: path.value }, body: { of } }));
    address.value = made.address ?? "";
    answered({ ...made, address: "" });
  });
}
const drop = (of: "own" | "all") =>
  change(() => ok(api.DELETE("/api/accounts/{account}/calendars/{of}", { params: { path: { ...path.value, of } } })));
async function follow() {
  const body = { member: whose.value, name: "", url: url.value };
  if (await change(() => ok(api.POST("/api/accounts/{account}/busy-calendars", { params: { path: path.value }, body })))) {
    url.value = "";
    tell("It is read in a moment, and again each hour.");
  }
}
async function take() {
  const chosen = file.value?.files?.[0];
  if (!chosen) return;
  const body = new FormData();
  body.append("member", String(whose.value));
  body.append("file", chosen);
  const call = () =>
    ok(
      api.POST("/api/accounts/{account}/busy-calendars/file", {
        params: { path: path.value },
        body: body as unknown as { member: number; file: string },
        bodySerializer: (one) => one as unknown as FormData,
      }),
    );
  if (await change(call)) tell(`${chosen.name} is read.`);
  if (file.value) file.value.value = "";
}
const dropBusy = (id: number) =>
  change(() =>
    ok(api.DELETE("/api/accounts/{account}/busy-calendars/{calendar_id}", { params: { path: { ...path.value, calendar_id: id } } })),
  );
async function take_address() {
  await copy(address.value);
  tell("The address is copied.");
}
</script>

<template>
  <ReadState :of="read" what="Calendars">
    <template v-if="all">
      <SetHead title="In calendars elsewhere" />
      <SetLine v-for="one in FEEDS" :key="one.of"
        >{{ one.words }} {{ all[one.of] ? "are followed by a secret address." : "are followed by nobody." }}
        <template #depends
          ><template v-if="may(one.may)"
            ><BButton variant="link" class="small" :disabled="pending" @click="make(one.of)">{{
              all[one.of] ? "Make a new address" : "Make an address"
            }}</BButton>
            <BButton
              v-if="all[one.of]"
              variant="link"
              class="small"
              :aria-label="`Take it away: ${one.words}`"
              :disabled="pending"
              @click="drop(one.of)"
              >Take it away</BButton
            ></template
          ></template
        ></SetLine
      >
      <p v-if="address" class="address" role="status">
        Shown once, for a calendar program to follow: <code>{{ address }}</code>
        <BButton variant="link" class="small" @click="take_address">Copy it</BButton>
      </p>
      <SetLine v-for="one in all.busy" :key="one.id"
        >{{ one.member }} is busy when “{{ one.name }}” says so.
        <template #depends
          ><span v-if="one.fault" class="rust"><StateMark is="failed" /> {{ one.fault }} · </span
          >{{ one.read ? `read ${one.read}` : "not read yet"
          }}<template v-if="may('set-up')">
            ·
            <BButton variant="link" class="small" :aria-label="`Take out ${one.name}`" :disabled="pending" @click="dropBusy(one.id)"
              >take out</BButton
            ></template
          ></template
        ></SetLine
      >
      <form v-if="may('set-up') && members.length" class="row new" @submit.prevent="follow">
        <FormRow label="Busy elsewhere"
          ><BFormSelect v-model="member"
            ><option v-for="(one, n) in members" :key="one.id" :value="n ? one.id : 0">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
        <FormRow label="The address of their calendar"
          ><BFormInput v-model.trim="url" type="url" placeholder="https://…" maxlength="2000" required
        /></FormRow>
        <BButton variant="outline-primary" type="submit" :disabled="pending || !url">Follow it</BButton>
        <label class="small"
          >or a file (.ics) <input ref="file" type="file" accept=".ics,text/calendar" :disabled="pending" @change="take"
        /></label>
      </form>
    </template>
  </ReadState>
</template>

<style scoped>
.new {
  align-items: end;
  flex-wrap: wrap;
  margin: 10px 0 4px;
}
.address {
  border-left: 3px solid var(--sea);
  padding-left: 12px;
  overflow-wrap: anywhere;
}
</style>
