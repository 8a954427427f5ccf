<script setup lang="ts">
/** Who is in the workflow and where; chosen, they are moved, paused, let on, taken out. Held messages, what is due, intakes. */
import { computed, reactive, ref, watch as follow } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";
import IntakeList from "./IntakeList.vue";
import WhyNot from "@/shared/WhyNot.vue";
import { walk } from "@/areas/workflows/script/document";
import { useScript } from "@/areas/workflows/script/script";
import type { Read } from "@/ui/reads";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";

const props = defineProps<{ watch?: Schemas["Watch"]; reading: Read; workflow: number; name: string; published: boolean }>();
const only = defineModel<"" | "inside" | "stuck" | "paused" | "left">("only", { required: true });
const script = useScript();
const account = useAccount();
const touched = useTouched();
const mayDo = useMay();
const may = computed(() => mayDo("people"));
const path = computed(() => ({ account: account.value, workflow_id: props.workflow }));

const picked = reactive(new Set<number>());
const running = computed(() => props.watch?.enrolments.filter((row) => !row.ended) ?? []);
follow([() => script.watching.value, only], () => picked.clear());
const everyone = computed({
  get: () => running.value.length > 0 && running.value.every((row) => picked.has(row.id)),
  set: (on) => running.value.forEach((row) => (on ? picked.add(row.id) : picked.delete(row.id))),
});
const why = ref("");
const to = ref("");
const { pending, act } = usePending();
type Did = "move" | "skip" | "pause" | "resume" | "take-out";
const DONE: Record<Did, string> = { move: "moved", skip: "let on", pause: "paused", resume: "resumed", "take-out": "taken out" };
async function handle(did: Did) {
  // Everybody behind the number at a line, also those of whom the list shows only the first.
  const line = script.watching.value;
  const all = everyone.value && line?.number === "here" && (props.watch?.shown ?? 0) > running.value.length;
  const body = { ids: all ? null : [...picked], step: all ? line.step : "", to: to.value, why: why.value };
  const done = await act(async () => {
    const { count } = await ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/inside/{did}", { params: { path: { ...path.value, did } }, body }),
    );
    tell(`${many(count, "person", "people")} ${DONE[did]}.`);
    picked.clear();
    why.value = "";
    to.value = "";
  });
  void touched("/workflows/{workflow_id}/watch");
  return done;
}
/** How many are chosen, or stand behind the number at a line. */
const meant = computed(() => (everyone.value ? (props.watch?.shown ?? 0) : picked.size));
const takeOut = () =>
  sure({
    title: `Take ${many(meant.value, "person", "people")} out`,
    act: "Take out",
    words: "What is still to come for them here is not sent. They can be enrolled again, and begin anew.",
    yes: () => handle("take-out"),
  });
const lines = computed(() =>
  [...walk(script.doc.value.steps)].map((step) => ({ id: step.id, words: script.book.value.lineName(step.id) })),
);

const { data: held, ...heldRead } = useRead("/workflows/{workflow_id}/held", () => ({ path: path.value }), {
  live: true,
  enabled: () => (props.watch?.held ?? 0) > 0,
});
async function settle(ids: number[] | null, did: "let_go" | "drop") {
  await act(async () => {
    const { count } = await ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/held", { params: { path: path.value }, body: { ids, did } }),
    );
    tell(`${many(count, "message")} ${did === "let_go" ? "on the way" : "not sent"}.`);
  });
  void touched("/workflows/{workflow_id}/held", "/workflows/{workflow_id}/watch");
}
const { data: ahead, ...aheadRead } = useRead("/diary", () => ({ query: { days: 4, workflow: props.workflow } }), {
  refetchInterval: 20_000,
});
const due = computed(() => ahead.value?.days.filter((day) => day.outlook.length) ?? []);
const enrolling = ref(false);
const asking = ref(false);
const NUMBER = { here: ["is here", "are here"], passed: ["went on from here", "went on from here"], left: ["left here", "left here"] };
const counted = computed(() => props.watch?.shown ?? 0);
</script>

<template>
  <aside id="notes" aria-label="Who is inside">
    <ReadState :of="[reading, heldRead, aheadRead]" what="Who is inside">
      <h2>{{ many(watch?.inside ?? 0, "person", "people") }} inside</h2>
      <p class="soft">
        {{ watch?.ended ?? 0 }} have left.
        <RouterLink v-if="watch?.set_aside" class="rust" :to="{ name: 'aside' }"
          ><StateMark is="broken" /> {{ watch.set_aside }} set aside.</RouterLink
        >
      </p>
      <p v-if="watch?.refused" class="gorse small">
        <StateMark is="look" /> In the last 30 days it did not start {{ watch.refused === 1 ? "once" : `${watch.refused} times` }}: so many
        workflows had led here, one by another, that the chain was ended. Each is told at the contact.
      </p>
      <p v-if="may && published"><BButton variant="outline-primary" @click="enrolling = true">Enrol people…</BButton></p>
      <section v-if="watch?.held && held" class="held" aria-label="Held messages">
        <h3 class="gorse"><StateMark is="waits" /> {{ many(watch.held, "message waits", "messages wait") }} to be let go</h3>
        <details v-for="one in held" :key="one.id">
          <summary>
            <span class="serif">{{ one.contact }}</span> <small class="soft">{{ one.channel }} “{{ one.name }}”, {{ one.since }}</small>
          </summary>
          <blockquote>
            <strong v-if="one.subject">{{ one.subject }}</strong>{{ one.body }}
          </blockquote>
          <p v-if="may" class="row">
            <BButton variant="outline-primary" :disabled="pending" @click="settle([one.id], 'let_go')">Let it go</BButton>
            <BButton variant="link" :disabled="pending" @click="settle([one.id], 'drop')">do not send it</BButton>
          </p>
        </details>
        <BButton v-if="may && watch.held > 1" variant="primary" :disabled="pending" @click="settle(null, 'let_go')"
          >Let all {{ watch.held }} go</BButton
        >
      </section>
      <div class="row filter">
        <strong v-if="script.watching.value"
          >{{ many(counted, "person", "people") }} {{ NUMBER[script.watching.value.number][counted === 1 ? 0 : 1] }}</strong
        >
        <FormRow v-else label="Which people" hides-label
          ><BFormSelect v-model="only">
            <option value="">everybody, newest first</option>
            <option value="inside">inside now ({{ watch?.inside ?? 0 }})</option>
            <option value="stuck">stuck ({{ watch?.stuck ?? 0 }})</option>
            <option value="paused">paused ({{ watch?.paused ?? 0 }})</option>
            <option value="left">have left ({{ watch?.ended ?? 0 }})</option>
          </BFormSelect></FormRow
        >
        <BButton v-if="script.watching.value" variant="link" @click="script.watching.value = undefined">Show everybody</BButton>
        <span class="grow" />
        <BFormCheckbox v-if="may && running.length" v-model="everyone" class="small">choose all</BFormCheckbox>
      </div>
      <div v-if="picked.size && may" class="handle" role="group" aria-label="What to do with them">
        <strong
          >{{
            many(everyone && script.watching.value?.number === "here" ? (watch?.shown ?? 0) : picked.size, "person", "people")
          }}
          chosen</strong
        >
        <FormRow label="Why (kept in their story)" class="wide"><BFormInput v-model="why" maxlength="180" /></FormRow>
        <div class="row">
          <BButton variant="outline-primary" :disabled="pending" title="As if the time had come" @click="handle('skip')"
            >End the wait</BButton
          >
          <BButton variant="outline-primary" :disabled="pending" @click="handle('pause')">Pause</BButton>
          <BButton variant="outline-primary" :disabled="pending" @click="handle('resume')">Resume</BButton>
          <BButton variant="outline-primary" :disabled="pending" @click="takeOut">Take out</BButton>
        </div>
        <div class="row to">
          <BFormSelect v-model="to" aria-label="Move to which line"
            ><option value="" disabled>move to the line…</option>
            <option v-for="line in lines" :key="line.id" :value="line.id">{{ line.words }}</option></BFormSelect
          ><BButton variant="outline-primary" :disabled="pending || !to" @click="handle('move')">Move</BButton>
        </div>
      </div>
      <ol>
        <li v-for="row in watch?.enrolments" :key="row.id">
          <BFormCheckbox
            v-if="may && !row.ended"
            class="tick-beside"
            plain
            :model-value="picked.has(row.id)"
            :aria-label="`Choose ${row.contact}`"
            @update:model-value="picked.has(row.id) ? picked.delete(row.id) : picked.add(row.id)" />
          <RouterLink class="serif" :to="{ name: 'contact', params: { contact: row.contact_id } }">{{ row.contact }}</RouterLink>
          <small class="soft">since {{ row.joined }}, version {{ row.version }}</small>
          <div v-if="row.fault" class="rust small"><StateMark is="broken" /> {{ row.fault }}</div>
          <div v-else-if="row.ended" class="soft small"><StateMark is="done" /> {{ row.ended }}</div>
          <div v-else class="small">
            <span v-if="row.paused" class="thrift">Paused since {{ row.paused }}. </span
            ><span class="gorse"><StateMark is="waits" /> {{ row.where.replace(/\.$/, "") || "about to begin" }}</span>
            <span v-if="row.until" class="soft">until {{ row.until }}</span>
          </div>
        </li>
      </ol>
      <p v-if="watch && watch.shown > watch.enrolments.length" class="soft small">
        The first {{ watch.enrolments.length }} of {{ watch.shown }}.
      </p>
      <p v-if="watch && !watch.enrolments.length && !only && !script.watching.value" class="soft">
        {{
          watch.planned
            ? `Nobody came in yet. ${many(watch.planned, "person comes", "people come")} in as planned.`
            : watch.published
              ? "Nobody came in yet. Enrol people here, or wait for what it starts on."
              : "Nobody came in yet. Publish it, then enrol people here, or tag them."
        }}
      </p>
      <section v-if="due.length" aria-label="What is due">
        <h3>Due in the next days</h3>
        <div v-for="day in due" :key="day.day" class="due">
          <small class="soft">{{ moment(`${day.day}T00:00`).split(",")[0] }}</small>
          <div v-for="one in day.outlook" :key="one.channel + one.name" class="small">
            {{ one.count }} × <span v-if="one.channel">{{ one.channel }}</span><span v-else class="thrift">task</span>
            <span class="serif">{{ one.name }}</span><span class="soft">, from {{ one.at }}</span>
          </div>
        </div>
        <small class="soft">As things stand, if nobody answers.</small>
      </section>
      <IntakeList :workflow="workflow" :may="may" />
      <section>
        <h3>Why not?</h3>
        <WhyNot v-if="asking" :workflow="workflow" :step="script.watching.value?.step" />
        <BButton v-else variant="link" @click="asking = true">Why did somebody not get it?</BButton>
      </section>
      <EnrolAsk
        v-if="enrolling"
        :workflow="workflow"
        :workflow-name="name"
        @close="enrolling = false"
        @done="((enrolling = false), tell($event), touched('everything'))" />
    </ReadState>
  </aside>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 8px 0;
}
li {
  border-top: 1px solid var(--rule);
  padding: 7px 0;
}
h3 {
  margin: 18px 0 4px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
.filter {
  margin-top: 10px;
}
.held h3 {
  margin-top: 8px;
}
.held details {
  border-top: 1px solid var(--rule);
  padding: 4px 0;
}
.handle {
  border-left: 3px solid var(--sea);
  background: var(--mist);
  padding: 8px 12px;
  margin: 8px 0;
}
.handle .row {
  gap: 6px;
  margin-top: 6px;
}
.handle button {
  padding: 3px 9px;
  font-size: 13.5px;
}
.to {
  flex-wrap: nowrap;
}
.to select {
  min-width: 0;
  flex: 1;
}
.wide,
.wide input {
  width: 100%;
}
.due {
  border-top: 1px solid var(--rule);
  padding: 4px 0;
}
blockquote {
  margin: 4px 0;
  font: 15px/1.45 var(--serif);
  white-space: pre-line;
  overflow-wrap: anywhere;
}
blockquote strong {
  display: block;
}
</style>
