<script setup lang="ts">
/** People being brought in by hand: how far each intake is; paused, resumed, stopped, taken back. */
import { computed } from "vue";

import { useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many, number } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";

const props = defineProps<{ workflow: number; may: boolean }>();
const account = useAccount();
const touched = useTouched();
const { data, ...reading } = useRead("/workflows/{workflow_id}/intakes", () => ({ path: { workflow_id: props.workflow } }), { live: true });
const rows = computed(() => data.value?.slice(0, 6) ?? []);
const { pending, act } = usePending();
async function change(row: Schemas["IntakeOut"], did: "pause" | "resume" | "stop" | "take-back") {
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/intakes/{intake_id}/{did}", {
        params: { path: { account: account.value, intake_id: row.id, did } },
      }),
    ),
  );
  void touched("/workflows/{workflow_id}/intakes", "/workflows/{workflow_id}/watch");
  return done;
}
const stop = (row: Schemas["IntakeOut"]) =>
  sure({
    title: "Stop it for good",
    act: "Stop it",
    words: `${many(row.total - row.came, "person does", "people do")} not come in. Who is inside stays there.`,
    yes: () => change(row, "stop"),
  });
const takeBack = (row: Schemas["IntakeOut"]) =>
  sure({
    title: `Take ${many(row.may_be_taken_back, "person", "people")} back`,
    act: "Take back",
    words: "They are taken out, and nothing has reached them yet. Who has got something stays inside.",
    yes: () => change(row, "take-back"),
  });
const STATES = { running: "the rest follows", paused: "paused", stopped: "stopped", taken_back: "and was taken back" };
</script>

<template>
  <ReadState :of="reading" what="Who is being brought in">
    <section v-if="rows.length" aria-label="Brought in by hand">
      <h3>Brought in by hand</h3>
      <div v-for="row in rows" :key="row.id" class="intake">
        <div class="row">
          <span
            ><strong>{{ number(row.came) }} of {{ number(row.total) }}</strong> {{ row.came === 1 ? "has" : "have" }} come in<span
              v-if="row.state !== 'done'"
              >,
              <span :class="{ running: 'gorse', paused: 'thrift', stopped: 'soft', taken_back: 'soft' }[row.state]">{{
                STATES[row.state]
              }}</span></span
            ></span
          ><span class="grow" /><small class="soft">{{ row.by }}, {{ row.made }}</small>
        </div>
        <BProgress
          v-if="row.state === 'running' || row.state === 'paused'"
          class="bar"
          :value="row.came"
          :max="row.total"
          :aria-label="`${row.came} of ${row.total} came in`" />
        <small v-if="row.state === 'running'" class="soft">{{ row.how }}; next {{ row.next }}, the last {{ row.finishes }}</small>
        <small v-for="(count, why) in row.left_out" :key="why" class="soft line">{{ count }} left out: {{ why }}</small>
        <small v-if="row.fault" class="rust line"><StateMark is="broken" /> It paused by itself: {{ row.fault }}</small>
        <div v-if="may" class="row acts">
          <BButton v-if="row.state === 'running'" variant="link" :disabled="pending" @click="change(row, 'pause')">pause</BButton>
          <BButton v-if="row.state === 'paused'" variant="link" :disabled="pending" @click="change(row, 'resume')">go on</BButton>
          <BButton v-if="row.state === 'running' || row.state === 'paused'" variant="link" :disabled="pending" @click="stop(row)"
            >stop for good</BButton
          >
          <BButton v-if="row.may_be_taken_back" variant="link" :disabled="pending" @click="takeBack(row)"
            >take {{ many(row.may_be_taken_back, "person", "people") }} back, who got nothing yet</BButton
          >
        </div>
      </div>
    </section>
  </ReadState>
</template>

<style scoped>
h3 {
  margin: 18px 0 4px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
.intake {
  border-top: 1px solid var(--rule);
  padding: 6px 0;
}
.bar {
  width: 100%;
  height: 7px;
  display: block;
}
.line {
  display: block;
}
.acts {
  gap: 12px;
  font-size: 13.5px;
}
</style>
