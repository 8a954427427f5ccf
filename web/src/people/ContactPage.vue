<script setup lang="ts">
/** One contact: how to reach them, where they are in workflows, and all that happened, with the reasons. */
import { computed, reactive, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import WhyNot from "@/workflows/WhyNot.vue";
import { chosen } from "./chosen";
import EnrolAsk from "./EnrolAsk.vue";
import OwnValues from "./OwnValues.vue";
import ProposalList from "./ProposalList.vue";
import Reaching from "./Reaching.vue";
import { useAccount, useAccountDetails } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import { many } from "@/ui/words";

const account = useAccount();
const { data: details } = useAccountDetails();
const route = useRoute();
const touched = useTouched();
const id = computed(() => Number(route.params.contact));
const path = computed(() => ({ account: account.value, contact_id: id.value }));

const { data: contact, ...contactRead } = useRead("/contacts/{contact_id}", () => ({ path: path.value }), { live: true });
const { data: enrolments, ...enrolmentsRead } = useRead("/contacts/{contact_id}/enrolments", () => ({ path: path.value }), { live: true });
const inside = computed(() => enrolments.value?.filter((one) => one.fault || !one.ended) ?? []);
const ended = computed(() => enrolments.value?.filter((one) => !one.fault && one.ended) ?? []);
const { data: story, ...storyRead } = useRead("/contacts/{contact_id}/story", () => ({ path: path.value }), { live: true });

// What of it is shown.
type Kind = Schemas["StoryItem"]["kind"];
const KINDS: [string, Kind[]][] = [
  ["everything", ["event", "message", "reply", "reason"]],
  ["what was said", ["message", "reply"]],
  ["what happened", ["event", "reply"]],
  ["the reasons", ["reason"]],
];
const kinds = ref<Kind[]>(KINDS[0]?.[1] ?? []);
const inWorkflow = ref(0);
const holding = ref("");
const workflowsOf = computed(() => [...new Map(enrolments.value?.map((one) => [one.workflow_id, one.workflow]) ?? [])]);
const enrolmentsIn = computed(() => new Set(enrolments.value?.filter((one) => one.workflow_id === inWorkflow.value).map((one) => one.id)));
const shown = computed(() =>
  (story.value ?? []).filter(
    (item) =>
      kinds.value.includes(item.kind) &&
      (!inWorkflow.value || enrolmentsIn.value.has(item.enrolment)) &&
      (!holding.value || `${item.sentence} ${item.detail}`.toLowerCase().includes(holding.value.toLowerCase())),
  ),
);
/** The message whose reasons are shown, as its place in what is shown. */
const why = ref(-1);
/** Why a message came: what its line decided, then all that its enrolment decided before, the newest first. */
function reasonsOf(message: Schemas["StoryItem"]) {
  const own = (story.value ?? []).filter((item) => item.kind === "reason" && item.enrolment === message.enrolment && item.at <= message.at);
  const here = own.findIndex((item) => item.step === message.step);
  return here < 0 ? own : own.slice(here);
}
const running = computed(() => enrolments.value?.filter((one) => !one.ended) ?? []);
const allPaused = computed(() => running.value.length > 0 && running.value.every((one) => one.paused));
async function pauseAll() {
  const did = allPaused.value ? "resume" : "pause";
  await act(() => ok(api.POST("/api/accounts/{account}/contacts/{contact_id}/workflows/{did}", { params: { path: { ...path.value, did } }, body: { ids: null, step: "", to: "", why: "" } })));
  touched("everything");
}
const asking = ref(false);
const may = useMay();

const { pending, act } = usePending();
const editing = ref(false);
const fields = reactive({ first_name: "", last_name: "", email: "", mobile: "", zone: "", post: "", push: "", social: "" });
watch(editing, (on) => {
  if (on && contact.value) for (const name of Object.keys(fields) as (keyof typeof fields)[]) fields[name] = contact.value[name];
});
async function save() {
  const done = await act(() => ok(api.PATCH("/api/accounts/{account}/contacts/{contact_id}", { params: { path: path.value }, body: { ...fields } })));
  if (done) editing.value = false;
  touched("everything");
}
const tag = ref("");
async function setTag(name: string, add: boolean) {
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/contacts/tag", {
        params: { path: { account: account.value } },
        body: { who: chosen({ ids: [id.value] }), tag: name, add },
      }),
    ),
  );
  tag.value = "";
  touched("everything");
}
const words = ref("");
const channel = ref<"text" | "email" | "note">("note"); // what is typed at once is never sent to anybody
async function write() {
  const text = words.value.trim();
  if (!text) return;
  const kind = channel.value;
  const done = await act(async () => {
    if (kind === "note") await ok(api.POST("/api/accounts/{account}/contacts/{contact_id}/notes", { params: { path: path.value }, body: { text } }));
    else await ok(api.POST("/api/accounts/{account}/contacts/{contact_id}/write", { params: { path: path.value }, body: { text, channel: kind } }));
  });
  if (done) words.value = "";
  touched("everything");
}
const enrolling = ref(false);
/** The enrolment that is to be moved, and the lines of its version. */
const moving = ref(0);
const lines = ref<Schemas["LineOf"][]>([]);
async function askWhere(enrolment: number) {
  if (moving.value === enrolment) return (moving.value = 0);
  lines.value = await ok(api.GET("/api/accounts/{account}/enrolments/{enrolment_id}/lines", { params: { path: { account: account.value, enrolment_id: enrolment } } }));
  moving.value = enrolment;
}
async function handle(one: Schemas["EnrolmentRow"], did: "pause" | "resume" | "move", to = "") {
  moving.value = 0;
  await act(() => ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/inside/{did}", { params: { path: { account: account.value, workflow_id: one.workflow_id, did } }, body: { ids: [one.id], step: "", to, why: "" } })));
  touched("everything");
}
async function takeOut(enrolment: number) {
  await act(() => ok(api.POST("/api/accounts/{account}/enrolments/{enrolment_id}/take-out", { params: { path: { account: account.value, enrolment_id: enrolment } }, body: { why: "" } })));
  touched("everything");
}
</script>

<template>
  <ReadState :of="[contactRead, enrolmentsRead, storyRead]" what="This contact" missing="There is nobody here" page>
  <div v-if="contact" class="page two">
    <aside>
      <h1>{{ contact.name }}</h1>
      <form v-if="editing" class="edit" @submit.prevent="save">
        <FormRow label="First name"><BFormInput v-model="fields.first_name" /></FormRow>
        <FormRow label="Last name"><BFormInput v-model="fields.last_name" /></FormRow>
        <FormRow label="Email"><BFormInput v-model="fields.email" /></FormRow>
        <FormRow label="Mobile"><BFormInput v-model="fields.mobile" /></FormRow>
        <FormRow label="Postal address"><BFormInput v-model="fields.post" placeholder="1 Quay Street, Port Example" /></FormRow>
        <FormRow label="Social handle"><BFormInput v-model="fields.social" /></FormRow>
        <FormRow label="Device for push notices"><BFormInput v-model="fields.push" /></FormRow>
        <FormRow label="Time zone, when not the account’s"><BFormInput v-model="fields.zone" placeholder="Europe/London" /></FormRow>
        <div class="actions"><BButton variant="primary" type="submit" :disabled="pending">Keep</BButton><BButton variant="link" @click="editing = false">Leave as it was</BButton></div>
      </form>
      <dl v-else>
        <dt>Mobile</dt>
        <dd><a v-if="contact.mobile" :href="`tel:${contact.mobile}`">{{ contact.mobile }}</a><span v-else class="soft">none</span></dd>
        <dt>Email</dt>
        <dd>{{ contact.email || "none" }}</dd>
        <template v-if="contact.post"><dt>Postal address</dt><dd>{{ contact.post }}</dd></template>
        <template v-if="contact.social"><dt>Social</dt><dd>{{ contact.social }}</dd></template>
        <dt>Time zone</dt>
        <dd>{{ contact.zone || `${details?.zone} (the account’s)` }}</dd>
        <dd v-if="may('people')"><BButton variant="link" @click="editing = true">Change</BButton></dd>
      </dl>
      <h2>Tags</h2>
      <p>
        <span v-for="name in contact.tags" :key="name" class="tag">{{ name }} <BButton v-if="may('people')" variant="link" class="off" :aria-label="`Take off ${name}`" @click="setTag(name, false)">✕</BButton></span>
        <span v-if="!contact.tags.length" class="soft">none</span>
      </p>
      <form v-if="may('people')" class="row" @submit.prevent="setTag(tag, true)">
        <BFormInput v-model.trim="tag" aria-label="New tag" placeholder="add a tag" maxlength="80" required /><BButton variant="outline-primary" type="submit">Tag</BButton>
      </form>
      <h2>In workflows</h2>
      <div v-for="one in inside" :key="one.id" class="note">
        <RouterLink class="serif" :to="`/${account}/workflows/${one.workflow_id}`">{{ one.workflow }}</RouterLink>
        <small class="soft"> since {{ one.joined }}</small>
        <div v-if="one.fault" class="rust small">▲ Set aside: {{ one.fault }}</div>
        <div v-else class="small">
          <span v-if="one.paused" class="thrift">Paused since {{ one.paused }}. </span><span class="gorse">◷ {{ one.where.replace(/\.$/, "") || "about to begin" }}</span> <span v-if="one.until" class="soft">until {{ one.until }}</span>
          <div v-if="one.next" class="soft">Then: <span class="serif">{{ one.next }}</span></div>
          <template v-if="may('people')">
            <BButton variant="link" class="out" @click="handle(one, one.paused ? 'resume' : 'pause')">{{ one.paused ? "Resume" : "Pause" }}</BButton>
            <BButton variant="link" class="out" :aria-expanded="moving === one.id" @click="askWhere(one.id)">Move…</BButton>
            <BButton variant="link" class="out" @click="takeOut(one.id)">Take out</BButton>
            <BFormSelect v-if="moving === one.id" aria-label="Move to which line" @update:model-value="handle(one, 'move', String($event))"><option value="">move to the line…</option><option v-for="line in lines" :key="line.id" :value="line.id">{{ line.words }}</option></BFormSelect>
          </template>
        </div>
      </div>
      <p v-if="!inside.length" class="soft">In none{{ ended.length ? " now" : "" }}.</p>
      <details v-if="ended.length" class="ended"><summary class="soft">{{ many(ended.length, "time") }} in one before</summary>
        <div v-for="one in ended" :key="one.id" class="note">
          <RouterLink class="serif" :to="`/${account}/workflows/${one.workflow_id}`">{{ one.workflow }}</RouterLink> <small class="soft">since {{ one.joined }}</small>
          <div class="soft small">✓ {{ one.ended }}</div>
        </div>
      </details>
      <p v-if="may('people')" class="row">
        <BButton variant="outline-primary" @click="enrolling = true">Enrol…</BButton>
        <BButton v-if="running.length" variant="outline-primary" @click="pauseAll">{{ allPaused ? "Resume all" : "Pause all" }}</BButton>
        <BButton variant="link" @click="asking = !asking">Why not…</BButton>
      </p>
      <WhyNot v-if="asking" :contact="contact.id" :contact-name="contact.first_name || contact.name" />
      <Reaching :contact="contact" :account="account" :may="may('people')" @changed="touched('everything')" />
      <OwnValues :contact="contact" :may="may('people')" :may-more="may('import')" @changed="touched('everything')" />
      <p v-if="details?.outside" class="soft small outside"><RouterLink :to="`/${account}/outside?contact=${contact.id}`">Open their simulated phone and mailbox</RouterLink></p>
    </aside>
    <section>
      <ProposalList :contact="contact.id" />
      <form v-if="may('people')" class="write" @submit.prevent="write">
        <BFormTextarea v-model="words" rows="2" :aria-label="channel === 'note' ? 'A note' : 'A message'" :placeholder="channel === 'note' ? 'A note for the team' : `Write to ${contact.first_name || contact.name}`" />
        <div class="row">
          <BFormRadio v-model="channel" value="note" name="channel">note, for the team only</BFormRadio>
          <BFormRadio v-model="channel" value="text" name="channel">text</BFormRadio>
          <BFormRadio v-model="channel" value="email" name="channel">email</BFormRadio>
          <span class="grow" />
          <BButton variant="primary" type="submit" :disabled="pending || !words.trim()">{{ channel === "note" ? "Note it" : "Send now" }}</BButton>
        </div>
      </form>
      <div class="row filters">
        <h2>What happened</h2>
        <span class="grow" />
        <FormRow label="Which things" hides-label><BFormSelect v-model="kinds"><option v-for="[label, some] in KINDS" :key="label" :value="some">{{ label }}</option></BFormSelect></FormRow>
        <FormRow v-if="workflowsOf.length" label="Of which workflow" hides-label><BFormSelect v-model="inWorkflow"><option :value="0">in any workflow</option><option v-for="[number, name] in workflowsOf" :key="number" :value="number">{{ name }}</option></BFormSelect></FormRow>
        <FormRow label="With the words" hides-label><BFormInput v-model.trim="holding" type="search" placeholder="with the words" /></FormRow>
      </div>
      <ol class="story">
        <li v-for="(item, index) in shown" :key="index" :class="item.kind">
          <time class="soft">{{ item.local_at }}</time>
          <div>
            <span class="what">{{ item.sentence }}</span>
            <small v-if="item.by" class="soft"> by {{ item.by }}</small>
            <small v-if="item.workflow" class="soft"> · {{ item.workflow }}</small>
            <small v-if="Object.keys(item.values).length" class="soft values"> · <template v-for="(value, name, number) in item.values" :key="name">{{ number ? ", " : "" }}{{ String(name).replace("_", " ") }}: {{ value }}</template></small>
            <BButton v-if="item.kind === 'message' && item.enrolment" variant="link" class="small why" :aria-expanded="why === index" @click="why = why === index ? -1 : index">why?</BButton>
            <blockquote v-if="item.detail">{{ item.detail }}</blockquote>
            <ol v-if="why === index && item.kind === 'message'" class="because" aria-label="Why it went out">
              <li v-for="(reason, number) in reasonsOf(item)" :key="number"><small class="soft">{{ reason.local_at }}</small> {{ reason.sentence }}<small v-if="Object.keys(reason.values).length" class="soft"> · <template v-for="(value, name, place) in reason.values" :key="name">{{ place ? ", " : "" }}{{ String(name).replace("_", " ") }}: {{ value }}</template></small></li>
            </ol>
          </div>
        </li>
      </ol>
    </section>
    <EnrolAsk v-if="enrolling" :who="chosen({ ids: [id] })" :count="1" @close="enrolling = false" @done="enrolling = false; touched('everything')" />
  </div>
  </ReadState>
</template>

<style scoped>
.two { display: grid; grid-template-columns: 300px 1fr; gap: 40px; }
aside h2 { margin: 22px 0 6px; padding-top: 12px; border-top: 1px solid var(--ink); }
dl { margin: 12px 0 0; }
dt { font-size: 13px; color: var(--soft); }
dd { margin: 0 0 8px; overflow-wrap: anywhere; }
.edit label, .edit input { width: 100%; }
.off { text-decoration: none; font-size: 12px; padding: 0 2px; }
.out { margin-right: 10px; }
.outside { margin-top: 20px; }
.write { border-bottom: 1px solid var(--rule); padding-bottom: 14px; margin-bottom: 18px; }
.story { list-style: none; padding: 0; margin: 8px 0; border-top: 1px solid var(--ink); }
.filters select, .filters input { font-size: 13.5px; padding: 2px 5px; max-width: 12em; }
.why { margin-left: 8px; }
.because { list-style: none; margin: 4px 0 6px; padding: 4px 0 4px 12px; border-left: 3px solid var(--sea); font: 14.5px/1.4 var(--serif); }
.because li { display: block; border: 0; padding: 2px 0; }
.story > li { display: grid; grid-template-columns: 128px 1fr; gap: 14px; padding: 7px 0; border-bottom: 1px solid var(--rule); }
.story time { font-size: 13.5px; padding-top: 1px; }
.reason .what { color: var(--soft); font: italic 15px var(--serif); }
.event .what { font-weight: 600; }
.reply .what { font-weight: 600; color: var(--thrift); }
.message .what { font-weight: 600; color: var(--sea); }
blockquote { margin: 3px 0 2px; font: 15.5px/1.45 var(--serif); white-space: pre-line; overflow-wrap: anywhere; }
@media (max-width: 760px) {
  .two { grid-template-columns: 1fr; gap: 20px; }
  .filters select, .filters input { font-size: 13.5px; padding: 2px 5px; max-width: 12em; }
.why { margin-left: 8px; }
.because { list-style: none; margin: 4px 0 6px; padding: 4px 0 4px 12px; border-left: 3px solid var(--sea); font: 14.5px/1.4 var(--serif); }
.because li { display: block; border: 0; padding: 2px 0; }
.story > li { grid-template-columns: 1fr; gap: 0; }
}
</style>
