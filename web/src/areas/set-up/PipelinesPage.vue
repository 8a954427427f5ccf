<script setup lang="ts">
/** Pipelines: the stages of each in their order, what each means, how long a deal may rest there; why deals are lost. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import Ask from "@/ui/Ask.vue";
import EmptyState from "@/ui/EmptyState.vue";
import FormRow from "@/ui/FormRow.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { cut, many } from "@/ui/words";
import DealFields from "./DealFields.vue";
import NeedsPart from "./NeedsPart.vue";

type All = Schemas["PipelineOut"][];
type Stage = Schemas["StageOut"];
const account = useAccount();
const rights = useMay();
const may = computed(() => rights("set-up"));
const { data: all, ...read } = useRead("/set-up/pipelines");
const { data: about } = useRead("/set-up/deal-fields");
const answered = useAnswered("/set-up/pipelines");
const { pending, act } = usePending({ inTurn: true });
const path = computed(() => ({ account: account.value }));
const name = ref("");
const added = ref<Record<number, string>>({});
/** A stage that is to be taken out, while it is asked where its deals go. */
const out = ref<{ stage: Stage; others: Stage[]; into: number }>();

const change = async (call: () => Promise<All>, said = "") => {
  const done = await act(async () => answered(await call()));
  if (done && said) tell(said);
  return done;
};
async function make() {
  const call = () => ok(api.POST("/api/accounts/{account}/set-up/pipelines", { params: { path: path.value }, body: { name: name.value } }));
  if (await change(call)) name.value = "";
}
const set = (id: number, body: Schemas["PipelineIn"]) =>
  change(() =>
    ok(api.PATCH("/api/accounts/{account}/set-up/pipelines/{pipeline_id}", { params: { path: { ...path.value, pipeline_id: id } }, body })),
  );
const drop = (one: Schemas["PipelineOut"]) =>
  change(
    () =>
      ok(
        api.DELETE("/api/accounts/{account}/set-up/pipelines/{pipeline_id}", { params: { path: { ...path.value, pipeline_id: one.id } } }),
      ),
    `${one.name} is taken away.`,
  );
async function add(id: number) {
  const call = () =>
    ok(
      api.POST("/api/accounts/{account}/set-up/pipelines/{pipeline_id}/stages", {
        params: { path: { ...path.value, pipeline_id: id } },
        body: { name: added.value[id] ?? "" },
      }),
    );
  if (await change(call)) added.value[id] = "";
}
const setStage = (id: number, body: Schemas["StageIn"]) =>
  change(() =>
    ok(api.PATCH("/api/accounts/{account}/set-up/stages/{stage_id}", { params: { path: { ...path.value, stage_id: id } }, body })),
  );
async function takeOut(stage: Stage, into?: number) {
  const query = into ? { into } : {};
  const call = () =>
    ok(api.DELETE("/api/accounts/{account}/set-up/stages/{stage_id}", { params: { path: { ...path.value, stage_id: stage.id }, query } }));
  if (await change(call, `${stage.name} is taken out.`)) out.value = undefined;
}
function askOut(stage: Stage, stages: Stage[]) {
  const others = stages.filter((one) => one.id !== stage.id);
  if (stage.deals) out.value = { stage, others, into: others[0]?.id ?? 0 };
  else void takeOut(stage);
}
</script>

<template>
  <div class="page">
    <PageHead title="Pipelines" about="the stages that deals come through" />
    <ReadState :of="read" what="Pipelines">
      <template v-if="all">
        <template v-for="(one, n) in all" :key="one.id">
          <SetHead :title="one.name" :first="n === 0" />
          <SetLine
            >The pipeline
            <WordPart
              :value="one.name"
              :label="`${one.name}: its name`"
              :most="80"
              :disabled="!may"
              @keep="set(one.id, { name: $event })" />
            has {{ many(one.stages.length, "stage") }}.
            <template #depends
              ><RouterLink :to="{ name: 'deals', query: { pipeline: one.name } }">{{ many(one.deals, "deal") }}</RouterLink
              ><template v-if="may && !one.deals">
                ·
                <BButton variant="link" class="small" :aria-label="`Take it away: ${one.name}`" :disabled="pending" @click="drop(one)"
                  >Take it away</BButton
                ></template
              ></template
            ></SetLine
          >
          <SetLine v-for="(stage, place) in one.stages" :key="stage.id"
            ><WordPart
              :value="stage.name"
              :label="`${stage.name}: its name`"
              :most="80"
              :disabled="!may"
              @keep="setStage(stage.id, { name: $event })" />
            means
            <WordPart
              :value="stage.means"
              :label="`${stage.name}: what it means`"
              empty="what its name says"
              :most="300"
              :disabled="!may"
              @keep="setStage(stage.id, { means: $event })" />; a deal may rest there
            <WordPart
              :value="stage.rest_days"
              type="number"
              :label="`${stage.name}: days that a deal may rest there`"
              empty="as long as it likes"
              :least="0"
              :most="3650"
              :disabled="!may"
              @keep="setStage(stage.id, { rest_days: $event === '' ? null : Number($event) })" /><template v-if="stage.rest_days !== null">
              {{ stage.rest_days === 1 ? "day" : "days" }}</template
            >. From there
            <WordPart
              :value="stage.likely"
              type="number"
              :label="`${stage.name}: how many of a hundred are won from there`"
              :empty="stage.closed ? `${Math.round((100 * stage.won) / stage.closed)} as counted` : 'not known how many'"
              :least="0"
              :most="100"
              :disabled="!may"
              @keep="setStage(stage.id, { likely: $event === '' ? null : Number($event) })" />
            of a hundred are won<span v-if="stage.closed" class="soft"> ({{ stage.won }} of {{ stage.closed }} so far)</span>. A deal comes
            there
            <NeedsPart
              :value="stage.needs"
              :label="`${stage.name}: what must be known before`"
              :needs="about?.needs ?? []"
              :disabled="!may"
              @keep="setStage(stage.id, { needs: $event })" />.
            <template #depends
              >{{ many(stage.deals, "open deal")
              }}<template v-if="may">
                <BButton
                  variant="link"
                  class="icon"
                  :aria-label="`${stage.name} up`"
                  :disabled="pending || !place"
                  @click="setStage(stage.id, { position: place - 1 })"
                  >↑</BButton
                ><BButton
                  variant="link"
                  class="icon"
                  :aria-label="`${stage.name} down`"
                  :disabled="pending || place === one.stages.length - 1"
                  @click="setStage(stage.id, { position: place + 1 })"
                  >↓</BButton
                ><BButton
                  variant="link"
                  class="small"
                  :aria-label="`Take out ${stage.name}`"
                  :disabled="pending || one.stages.length < 2"
                  @click="askOut(stage, one.stages)"
                  >take out</BButton
                ></template
              ></template
            ></SetLine
          >
          <form v-if="may" class="row new" @submit.prevent="add(one.id)">
            <FormRow :label="`One more stage of ${one.name}`"><BFormInput v-model.trim="added[one.id]" maxlength="80" /></FormRow>
            <BButton variant="outline-primary" type="submit" :disabled="pending || !added[one.id]">Add it</BButton>
          </form>
          <SetLine
            >Deals are lost because of
            <WordPart
              :value="one.reasons.join(', ')"
              :label="`${one.name}: reasons for losing`"
              empty="nothing that is said beforehand"
              :most="800"
              :disabled="!may"
              @keep="set(one.id, { reasons: cut($event) })" />.
            <template #depends>Reasons to choose from, by comma. What was said of deals that are lost already stays.</template></SetLine
          >
        </template>
        <DealFields :may="may" />
        <EmptyState v-if="!all.length">No pipeline yet. Name one, like “Courses”; it begins with three stages.</EmptyState>
        <form v-if="may" class="row new" @submit.prevent="make">
          <FormRow label="Another pipeline"><BFormInput v-model.trim="name" maxlength="80" /></FormRow>
          <BButton variant="outline-primary" type="submit" :disabled="pending || !name">Add it</BButton>
        </form>
      </template>
    </ReadState>
    <Ask v-if="out" v-slot="{ close }" :title="`Take out ${out.stage.name}`" @close="out = undefined">
      <form class="out" @submit.prevent="out && takeOut(out.stage, out.into)">
        <FormRow :label="`${many(out.stage.deals, 'open deal')} in it, and closed ones, go to`"
          ><BFormSelect v-model="out.into"
            ><option v-for="one in out.others" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
        <p class="soft">Nothing starts by it: no workflow takes it for a move.</p>
        <div class="row">
          <BButton variant="primary" type="submit" :disabled="pending">Take it out</BButton>
          <BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.new {
  align-items: end;
  margin: 10px 0 4px;
}
.out {
  display: grid;
  gap: 10px;
}
</style>
