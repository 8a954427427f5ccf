<script setup lang="ts">
/** Enrols people: whom, in which workflow, when and how fast; who would come in and who would not, before the act. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import { useRead } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { useSettled } from "@/ui/useSettled";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { chosen as whom } from "./chosen";
import ConditionWords from "@/sentences/ConditionWords.vue";
import type { Condition } from "@/sentences/written";
import TrickleLines from "./TrickleLines.vue";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { filesOf } from "@/ui/events";

/** `deals`: each of these comes in, for the one whose it is. `message`: one of the library, written to them once. */
const props = defineProps<{
  who?: Schemas["Chosen"];
  deals?: number[];
  count?: number;
  workflow?: number;
  workflowName?: string;
  message?: { id: number; name: string };
}>();
const [unit, units] = props.deals ? (["deal", "deals"] as const) : (["person", "people"] as const);
const comes = (count: number) => many(count, `${unit} comes`, `${units} come`);
const emit = defineEmits<{ close: []; done: [said: string] }>();
const account = useAccount();
const path = computed(() => ({ account: account.value }));
const chosen = ref(props.workflow ?? 0);
const { data: workflows, ...workflowsRead } = useRead("/workflows", undefined, { enabled: () => !props.message });
const open = computed(() => (workflows.value ?? []).filter((one) => one.version && one.open));

// Whom, when nobody was chosen before.
const from = ref<"tag" | "list" | "segment" | "search" | "file" | "fits">("tag");
const where = ref<Condition>({ test: "tag", tag: "", has: true });
const WAYS = [
  ["tag", "with a tag"],
  ["list", "on a list"],
  ["segment", "in a segment"],
  ["search", "whom a search finds"],
  ["file", "named in a file"],
  ["fits", "who fit a condition"],
] as const;
const named = reactive({ tag: "", list: "", q: "", segment: "" });
const inFile = ref<Schemas["InFile"]>();
const given = computed(() => !!props.who || !!props.deals);
const { data: segments, ...segmentsRead } = useRead("/segments", undefined, { enabled: () => !given.value });
const { data: names, ...namesRead } = useRead("/names", undefined, { enabled: () => !given.value });
const who = computed<Schemas["Chosen"] | undefined>(() => {
  if (props.who) return props.who;
  if (props.deals) return whom({ ids: [] });
  if (from.value === "file") return inFile.value && whom({ ids: inFile.value.ids });
  if (from.value === "fits") return whom({ where: where.value as never });
  if (from.value === "tag") return named.tag ? whom({ tag: named.tag }) : undefined;
  if (from.value === "list") return named.list ? whom({ list: named.list }) : undefined;
  if (from.value === "segment") return named.segment ? whom({ segment: named.segment }) : undefined;
  return named.q.trim() ? whom({ q: named.q.trim() }) : undefined;
});
const { pending, act } = usePending();
async function read(event: Event) {
  const file = filesOf(event)?.[0];
  if (!file) return;
  const body = new FormData();
  body.append("file", file);
  await act(async () => {
    inFile.value = await ok(
      api.POST("/api/accounts/{account}/contacts/in-file", {
        params: { path: path.value },
        body: body as unknown as { file: string },
        bodySerializer: (one) => one as unknown as FormData,
      }),
    );
  });
}

// When, and how fast.
const later = ref(false);
const begin = ref("");
const slowly = ref(false);
const trickle = ref<Schemas["Trickle"]>({
  count: 10,
  each: "day",
  weekdays: ["mon", "tue", "wed", "thu", "fri"],
  start: "09:00",
  end: "17:00",
  skip_holidays: true,
});
const body = computed<Schemas["IntakeIn"] | undefined>(
  () =>
    who.value && {
      who: who.value,
      deals: props.deals ?? null,
      begin: later.value && begin.value ? begin.value : null,
      trickle: slowly.value ? trickle.value : null,
    },
);
const asked = useSettled(body, 250);
const {
  data: plan,
  isFetching,
  error,
} = useQuery({
  queryKey: ["intake-plan", account, chosen, asked, props.message?.id],
  queryFn: () =>
    ok(
      props.message
        ? api.POST("/api/accounts/{account}/messages/{message_id}/once/plan", {
            params: { path: { ...path.value, message_id: props.message.id } },
            body: asked.value as Schemas["IntakeIn"],
          })
        : api.POST("/api/accounts/{account}/workflows/{workflow_id}/intakes/plan", {
            params: { path: { ...path.value, workflow_id: chosen.value } },
            body: asked.value as Schemas["IntakeIn"],
          }),
    ),
  enabled: () => (chosen.value > 0 || !!props.message) && !!asked.value,
});
const ready = computed(
  () => body.value === asked.value && !isFetching.value && !!plan.value && !plan.value.problem && plan.value.joining > 0,
);
async function enrol() {
  const sent = body.value;
  if (!sent) return;
  await act(async () => {
    const done = await ok(
      props.message
        ? api.POST("/api/accounts/{account}/messages/{message_id}/once", {
            params: { path: { ...path.value, message_id: props.message.id } },
            body: sent,
          })
        : api.POST("/api/accounts/{account}/workflows/{workflow_id}/intakes", {
            params: { path: { ...path.value, workflow_id: chosen.value } },
            body: sent,
          }),
    );
    if (props.message) return emit("done", `It is written to ${many(done.total, "person", "people")}.`);
    emit(
      "done",
      done.state === "done"
        ? `${many(done.came, unit, units)} came in.`
        : `${comes(done.total)} in: ${done.how}, the last ${done.finishes}.`,
    );
  });
}
</script>

<template>
  <Ask
    v-slot="{ close }"
    :title="
      message
        ? `Write “${message.name}” once to some people`
        : workflowName
          ? `Enrol people in “${workflowName}”`
          : given
            ? `Enrol ${many(deals?.length ?? count ?? 0, unit, units)}`
            : 'Enrol people'
    "
    @close="emit('close')">
    <ReadState :of="[workflowsRead, segmentsRead, namesRead]" what="What people can be enrolled in">
      <fieldset v-if="!given">
        <legend>Whom</legend>
        <div class="row ways">
          <BFormRadio v-for="[way, words] in WAYS" :key="way" v-model="from" :value="way" name="from">{{ words }}</BFormRadio>
        </div>
        <BFormSelect v-if="from === 'tag'" v-model="named.tag" aria-label="Tag"
          ><option value="" disabled>choose a tag</option>
          <option v-for="one in names?.names.tag" :key="one.name" :value="one.name">{{ one.name }}</option></BFormSelect
        >
        <BFormSelect v-else-if="from === 'list'" v-model="named.list" aria-label="List"
          ><option value="" disabled>choose a list</option>
          <option v-for="one in names?.names.list" :key="one.name" :value="one.name">{{ one.name }}</option></BFormSelect
        >
        <BFormSelect v-else-if="from === 'segment'" v-model="named.segment" aria-label="Segment"
          ><option value="" disabled>choose a segment</option>
          <option v-for="one in segments" :key="one.id" :value="one.name">{{ one.name }} ({{ one.count }})</option></BFormSelect
        >
        <ConditionWords v-else-if="from === 'fits'" v-model="where" />
        <BFormInput
          v-else-if="from === 'search'"
          v-model="named.q"
          type="search"
          aria-label="Search"
          placeholder="a name, an email, a number" />
        <template v-else>
          <input type="file" accept=".csv,.tsv,.txt,.xlsx,.vcf" aria-label="File with email addresses or mobile numbers" @change="read" />
          <p v-if="inFile" class="small">
            {{ many(inFile.ids.length, "person", "people") }} of the file {{ inFile.ids.length === 1 ? "is" : "are" }} here.<span
              v-if="inFile.unknown.length"
              class="gorse">
              ▲ {{ many(inFile.unknown.length, "row names", "rows name") }} nobody who is here: bring them in first, under People.</span
            >
          </p>
        </template>
      </fieldset>
      <FormRow v-if="!workflow && !message" label="In which workflow"
        ><BFormSelect v-model="chosen">
          <option :value="0" disabled>choose one</option>
          <option v-for="one in open" :key="one.id" :value="one.id">{{ one.name }}</option>
        </BFormSelect></FormRow
      >
      <p v-if="!open.length && workflows && !workflow && !message" class="soft">No workflow is published and open yet.</p>
      <fieldset>
        <legend>When</legend>
        <BFormRadio v-model="later" :value="false" name="later">now</BFormRadio>
        <BFormRadio v-model="later" :value="true" name="later">at a moment</BFormRadio>
        <input v-if="later" v-model="begin" type="datetime-local" aria-label="Begin at" />
      </fieldset>
      <fieldset>
        <legend>How fast</legend>
        <BFormRadio v-model="slowly" :value="false" name="slowly">all at once</BFormRadio>
        <BFormRadio v-model="slowly" :value="true" name="slowly">a few at a time</BFormRadio>
        <TrickleLines v-if="slowly" v-model="trickle" :units="units" />
      </fieldset>
      <template v-if="plan && (chosen || message)">
        <p v-if="plan.problem" class="fault">{{ plan.problem }}</p>
        <template v-else>
          <p v-if="plan.joining" class="serif come">
            <strong>{{ message ? `It goes to ${many(plan.joining, unit, units)}` : `${comes(plan.joining)} in` }}</strong>{{
              slowly ? `, the last ${plan.finishes}` : later && plan.days[0] ? `, ${plan.days[0].words}` : " at once"
            }}.
            {{ plan.first_message ? `The first message goes out ${plan.first_message}.` : "No message goes out by itself." }}
          </p>
          <p v-else class="serif come">
            <strong>{{ message ? "It goes to nobody." : deals ? "No deal comes in." : "Nobody comes in." }}</strong>
          </p>
          <details v-if="slowly && plan.days.length > 1">
            <summary>Day by day: {{ many(plan.days.length, "day") }}</summary>
            <ol class="plan">
              <li v-for="day in plan.days" :key="day.day">
                <span>{{ day.words }}</span> {{ many(day.count, unit, units) }}
              </li>
            </ol>
          </details>
          <p v-for="(number, why) in plan.left_out" :key="why" class="note">
            {{ number }} left out: {{ why }}.
            <small class="soft">{{ plan.names[why]?.join(", ") }}{{ number > (plan.names[why]?.length ?? 0) ? " and others" : "" }}</small>
          </p>
          <p v-for="words in plan.beyond" :key="words" class="note gorse"><StateMark is="look" /> {{ words }}</p>
        </template>
      </template>
      <p v-if="error" class="fault" role="alert">{{ error.message }}</p>
      <div class="actions">
        <BButton variant="primary" :disabled="pending || !ready" @click="enrol"
          >{{ message ? "Write it to" : "Enrol" }} {{ plan && !plan.problem ? many(plan.joining, unit, units) : "" }}</BButton
        >
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </ReadState>
  </Ask>
</template>

<style scoped>
.come {
  font-size: 17px;
  margin-top: 14px;
}
fieldset {
  margin: 10px 0 0;
}
fieldset label {
  margin-right: 14px;
}
.ways {
  margin-bottom: 6px;
  gap: 4px;
}
.plan {
  margin: 4px 0;
  padding: 0;
  list-style: none;
  max-height: 22vh;
  overflow: auto;
  columns: 2;
}
.plan li {
  display: flex;
  gap: 14px;
  border-top: 1px solid var(--rule);
  padding: 3px 0;
}
.plan span {
  min-width: 9em;
}
</style>
