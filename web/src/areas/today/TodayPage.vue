<script setup lang="ts">
/** The team's day: who to ring, with the number and what to say; replies to answer; things to do; what goes out by itself. */
import { computed, defineAsyncComponent } from "vue";

import { api, ok } from "@/api/client";
import { useMay, useRead, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";
import CallList from "./CallList.vue";

const StopAll = defineAsyncComponent(() => import("@/shared/StopAll.vue"));
const ProposalList = defineAsyncComponent(() => import("@/shared/ProposalList.vue"));
const AppointmentList = defineAsyncComponent(() => import("./AppointmentList.vue"));
const ReplyList = defineAsyncComponent(() => import("./ReplyList.vue"));
const ToDoList = defineAsyncComponent(() => import("./ToDoList.vue"));
const HeldList = defineAsyncComponent(() => import("./HeldList.vue"));
const account = useAccount();
const { data: details } = useAccountDetails();
const touched = useTouched();
const { data, ...reading } = useRead("/today", undefined, { live: true });
const { data: outlook, ...outlookRead } = useRead("/diary", () => ({ query: { days: 1 } }), { refetchInterval: 20_000 });
const goesOut = computed(() => outlook.value?.days[0]?.outlook.filter((row) => row.channel) ?? []);
const { data: waits, ...waitsRead } = useRead("/aside", undefined, { live: true });
const { data: forms, ...formsRead } = useRead("/forms", undefined, { live: true });
const apart = computed(() => forms.value?.filter((form) => form.spam) ?? []);
const held = computed(() => waits.value?.messages.filter((one) => one.state === "held") ?? []);
const { act } = usePending();
const mayDo = useMay();
const may = computed(() => mayDo("tasks"));
async function seen(notice: number) {
  await act(() =>
    ok(api.POST("/api/accounts/{account}/notices/{notice_id}/seen", { params: { path: { account: account.value, notice_id: notice } } })),
  );
  void touched("/today");
}
</script>

<template>
  <div class="page">
    <PageHead title="Today"
      ><template #beside
        ><span v-if="details" class="soft">{{ moment(details.local_now) }}</span>
        <span v-if="data" class="soft">{{ data.done_today }} done · {{ data.later }} come later</span></template
      ><StopAll />
    </PageHead>
    <p v-for="one in waits?.broken" :key="`${one.kind}${one.name}`" class="rust" role="status">
      <StateMark is="broken" /> {{ one.reason }}
      <template v-if="one.count">{{ many(one.count, "waits", "wait") }}, tried again {{ one.again }}. </template
      ><RouterLink v-if="mayDo('set-up')" :to="{ name: 'connections' }">See to it</RouterLink>
    </p>
    <ReadState :of="[reading, outlookRead, waitsRead, formsRead]" what="Today">
      <section v-if="data?.notices.length" class="notices" aria-label="Notices">
        <div v-for="one in data.notices" :key="one.id" class="row">
          <span class="grow"
            >{{ one.text }}
            <RouterLink class="small" :to="`/${account}/${one.place}`">{{ one.contact || "See to it" }}</RouterLink>
            <small class="soft">{{ moment(one.local_at) }}</small></span
          >
          <BButton variant="link" :aria-label="`Seen: ${one.contact} ${one.text}`" @click="seen(one.id)">Seen</BButton>
        </div>
      </section>
      <div v-if="data" class="columns">
        <section>
          <AppointmentList
            v-if="data.appointments.length || mayDo('people')"
            :rows="data.appointments"
            :may="may"
            :may-book="mayDo('people')"
            :local-now="details?.local_now ?? ''" />
          <div class="calls"><CallList :calls="data.calls" :may="may" :local-now="details?.local_now ?? ''" /></div>
          <ToDoList :tasks="data.to_dos" :may="may" />
          <h2 class="second">Goes out by itself today</h2>
          <p v-if="!goesOut.length" class="soft">Nothing more today.</p>
          <p v-for="row in goesOut" :key="`${row.workflow_id}${row.channel}${row.name}`" class="goes">
            <span class="soft small">from {{ row.at }}</span> {{ row.count }} × {{ row.channel }}
            <RouterLink class="serif" :to="{ name: 'workflow', params: { workflow: row.workflow_id } }">{{ row.name }}</RouterLink>
            <small class="soft">{{ row.workflow }}</small>
          </p>
          <p class="small"><RouterLink :to="{ name: 'diary' }">The days ahead, in the diary</RouterLink></p>
        </section>
        <section>
          <ProposalList />
          <p v-for="form in apart" :key="form.id" class="small apart">
            <RouterLink :to="{ name: 'form', params: { form: form.id } }"
              >{{ many(form.spam, "answer") }} to “{{ form.name }}” kept apart</RouterLink
            >: it may be spam, and nobody has looked.
          </p>
          <ReplyList :replies="data.replies" :strangers="data.strangers" :may="may" />
          <HeldList v-if="held.length" :held="held" :count="waits?.counts.held ?? 0" />
        </section>
      </div>
    </ReadState>
  </div>
</template>

<style scoped>
.apart {
  margin: 0 0 18px;
}
.columns {
  margin-top: 16px;
  display: grid;
  grid-template-columns: 1.15fr 1fr;
  gap: 44px;
}
.calls:not(:first-child) {
  margin-top: 28px;
}
.notices {
  border-left: 3px solid var(--sea);
  padding: 2px 0 2px 14px;
  margin-bottom: 16px;
}
.notices .row {
  padding: 3px 0;
}
.goes {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
  margin: 0;
}
/* What the lists of the day have alike. */
.columns :deep(h2) {
  border-bottom: 1px solid var(--ink);
  padding-bottom: 5px;
}
.columns :deep(.second) {
  margin-top: 28px;
}
.columns :deep(.name) {
  font-size: 17px;
}
.columns :deep(blockquote) {
  margin: 8px 0;
  font: 16px/1.45 var(--serif);
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.columns :deep(.outcomes) {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
@media (max-width: 760px) {
  .columns {
    grid-template-columns: 1fr;
    gap: 26px;
  }
  .columns :deep(.outcomes button) {
    flex: 1 0 40%;
    padding: 9px;
  }
}
</style>
