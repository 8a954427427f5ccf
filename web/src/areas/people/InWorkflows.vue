<script setup lang="ts">
/** The workflows that a contact is inside of, with what comes next; paused, moved, taken out, enrolled; those before. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { chosen } from "@/shared/chosen";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import WhyNot from "@/shared/WhyNot.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { sure } from "@/ui/sure";

const props = defineProps<{ contact: Schemas["ContactRow"]; enrolments: Schemas["EnrolmentRow"][]; may: boolean }>();
const account = useAccount();
const path = computed(() => ({ account: account.value, contact_id: props.contact.id }));
const touched = useTouched();
const { act } = usePending();
const inside = computed(() => props.enrolments.filter((one) => one.fault || !one.ended));
const ended = computed(() => props.enrolments.filter((one) => !one.fault && one.ended));
const asking = ref(false);
const enrolling = ref(false);
const running = computed(() => props.enrolments.filter((one) => !one.ended));
const allPaused = computed(() => running.value.length > 0 && running.value.every((one) => one.paused));
async function pauseAll() {
  const did = allPaused.value ? "resume" : "pause";
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/contacts/{contact_id}/workflows/{did}", {
        params: { path: { ...path.value, did } },
        body: { ids: null, step: "", to: "", why: "" },
      }),
    ),
  );
  void touched("everything");
}
/** The enrolment that is to be moved, and the lines of its version. */
const moving = ref(0);
const lines = ref<Schemas["LineOf"][]>([]);
async function askWhere(enrolment: number) {
  if (moving.value === enrolment) return (moving.value = 0);
  lines.value = await ok(
    api.GET("/api/accounts/{account}/enrolments/{enrolment_id}/lines", {
      params: { path: { account: account.value, enrolment_id: enrolment } },
    }),
  );
  moving.value = enrolment;
}
async function handle(one: Schemas["EnrolmentRow"], did: "pause" | "resume" | "move", to = "") {
  moving.value = 0;
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/inside/{did}", {
        params: { path: { account: account.value, workflow_id: one.workflow_id, did } },
        body: { ids: [one.id], step: "", to, why: "" },
      }),
    ),
  );
  void touched("everything");
}
function takeOut(one: Schemas["EnrolmentRow"]) {
  sure({
    title: `Take ${props.contact.name} out of “${one.workflow}”`,
    act: "Take out",
    words: "What is still to come for them there is not sent. They can be enrolled again, and begin anew.",
    yes: async () => {
      const path = { account: account.value, enrolment_id: one.id };
      await ok(api.POST("/api/accounts/{account}/enrolments/{enrolment_id}/take-out", { params: { path }, body: { why: "" } }));
      void touched("everything");
    },
  });
}
</script>

<template>
  <h2>In workflows</h2>
  <div v-for="one in inside" :key="one.id" class="note">
    <RouterLink class="serif" :to="{ name: 'workflow', params: { workflow: one.workflow_id } }">{{ one.workflow }}</RouterLink>
    <small class="soft"> since {{ one.joined }}</small>
    <div v-if="one.fault" class="rust small"><StateMark is="broken" /> Set aside: {{ one.fault }}</div>
    <div v-else class="small">
      <span v-if="one.paused" class="thrift">Paused since {{ one.paused }}. </span
      ><span class="gorse"><StateMark is="waits" /> {{ one.where.replace(/\.$/, "") || "about to begin" }}</span>
      <span v-if="one.until" class="soft">until {{ one.until }}</span>
      <div v-if="one.next" class="soft">
        Then: <span class="serif">{{ one.next }}</span>
      </div>
      <template v-if="may">
        <BButton variant="link" class="out" @click="handle(one, one.paused ? 'resume' : 'pause')">{{
          one.paused ? "Resume" : "Pause"
        }}</BButton>
        <BButton variant="link" class="out" :aria-expanded="moving === one.id" @click="askWhere(one.id)">Move…</BButton>
        <BButton variant="link" class="out" @click="takeOut(one)">Take out</BButton>
        <BFormSelect v-if="moving === one.id" aria-label="Move to which line" @update:model-value="handle(one, 'move', String($event))"
          ><option value="">move to the line…</option>
          <option v-for="line in lines" :key="line.id" :value="line.id">{{ line.words }}</option></BFormSelect
        >
      </template>
    </div>
  </div>
  <p v-if="!inside.length" class="soft">In none{{ ended.length ? " now" : "" }}.</p>
  <details v-if="ended.length" class="ended">
    <summary class="soft">{{ many(ended.length, "time") }} in one before</summary>
    <div v-for="one in ended" :key="one.id" class="note">
      <RouterLink class="serif" :to="{ name: 'workflow', params: { workflow: one.workflow_id } }">{{ one.workflow }}</RouterLink>
      <small class="soft">since {{ one.joined }}</small>
      <div class="soft small"><StateMark is="done" /> {{ one.ended }}</div>
    </div>
  </details>
  <p v-if="may" class="row">
    <BButton variant="outline-primary" @click="enrolling = true">Enrol…</BButton>
    <BButton v-if="running.length" variant="outline-primary" @click="pauseAll">{{ allPaused ? "Resume all" : "Pause all" }}</BButton>
    <BButton variant="link" @click="asking = !asking">Why not…</BButton>
  </p>
  <WhyNot v-if="asking" :contact="contact.id" :contact-name="contact.first_name || contact.name" />
  <EnrolAsk
    v-if="enrolling"
    :who="chosen({ ids: [contact.id] })"
    :count="1"
    @close="enrolling = false"
    @done="
      enrolling = false;
      touched('everything');
    " />
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
.out {
  margin-right: 10px;
}
</style>
