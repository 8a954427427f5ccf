<script setup lang="ts">
/** A deal: in a sentence what it is, what is next; who is in it, what is known, what was noted, what comes and what has been. */
import { useEventListener } from "@vueuse/core";
import { computed, defineAsyncComponent, ref } from "vue";
import { useRoute } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import DealSentence from "@/shared/deals/DealSentence.vue";
import { whatNext, whenNext } from "@/shared/deals/nextWords";
import { useMoving, type To } from "@/shared/deals/useMoving";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { elementOf } from "@/ui/events";
import { TYPING } from "@/ui/keys";
import { takeBack, tell } from "@/ui/told";
import { many, moment, several } from "@/ui/words";
import DealAbout from "./DealAbout.vue";

const LostAsk = defineAsyncComponent(() => import("@/shared/deals/LostAsk.vue"));
const EnrolAsk = defineAsyncComponent(() => import("@/shared/EnrolAsk.vue"));
const route = useRoute();
const rights = useMay();
const may = computed(() => rights("people"));
const { data: details } = useAccountDetails();
const now = computed(() => details.value?.local_now ?? "");
const path = computed(() => ({ path: { deal_id: Number(route.params.deal) } }));
const { data: deal, ...reading } = useRead("/deals/{deal_id}", path, { live: true });
const { move, pending } = useMoving();
const who = computed(() => deal.value?.people[0]);
const asking = ref<"" | "lost" | "enrol">("");
const at = computed(() => deal.value?.stages.findIndex((one) => one.name === deal.value?.stage) ?? -1);
const next = computed(() => (at.value < 0 ? undefined : deal.value?.stages[at.value + 1]));
const before = computed(() => deal.value?.stages[at.value - 1]);
async function go(to: To) {
  asking.value = "";
  const one = deal.value;
  if (one && may.value) await move([{ id: one.id, contact: who.value?.name ?? "", stage: one.stage }], to);
}
const ACTS: Record<string, () => void> = {
  ArrowRight: () => next.value && void go({ stage: next.value.name }),
  ArrowLeft: () => before.value && void go({ stage: before.value.name }),
  w: () => void go({ state: "won" }),
  l: () => (asking.value = "lost"),
  e: () => (asking.value = "enrol"),
};
function onKey(event: KeyboardEvent) {
  const on = elementOf(event);
  if (on?.closest(TYPING) || on?.closest("[role='dialog']") || !may.value) return;
  if (event.key === "z" && (event.ctrlKey || event.metaKey)) void takeBack();
  else if (event.ctrlKey || event.metaKey || event.altKey || !ACTS[event.key] || deal.value?.state !== "open") return;
  else ACTS[event.key]?.();
  event.preventDefault();
}
useEventListener(document, "keydown", onKey);
function enrolled(said: string) {
  asking.value = "";
  tell(said);
}
const WHAT: Record<string, string> = { task: "", appointment: "appointment: ", workflow: "workflow: " };
</script>

<template>
  <div class="page">
    <ReadState :of="reading" what="The deal">
      <template v-if="deal">
        <PageHead :title="deal.name || `A deal of ${who?.name}`">
          <template #beside
            ><span class="soft"
              >with <RouterLink :to="{ name: 'contact', params: { contact: who?.contact_id } }">{{ who?.name }}</RouterLink>
              <template v-if="who?.number">
                · <a :href="`tel:${who.number.replaceAll(' ', '')}`">{{ who.number }}</a></template
              ></span
            ></template
          >
          <RouterLink :to="{ name: 'deals', query: { pipeline: deal.pipeline } }">All deals</RouterLink>
        </PageHead>
        <div class="two">
          <section aria-label="The deal">
            <DealSentence
              v-if="deal.state === 'open'"
              class="sum"
              :deal="deal"
              :stages="deal.stages.map((one) => one.name)"
              :owners="deal.owners"
              :may="may"
              :busy="pending"
              @move="go({ stage: $event })" />
            <p v-else class="sum">
              It was {{ deal.state }} on {{ deal.closed }}, in {{ deal.stage }} of {{ deal.pipeline }}{{ deal.why ? `: ${deal.why}` : "" }}.
            </p>
            <template v-if="deal.state === 'open'">
              <p class="line">
                Next: <b :class="{ thrift: ['nothing', 'task', 'answer'].includes(deal.next.sort) }">{{ whatNext(deal.next) }}</b><span
                  :class="{ rust: deal.next.late_days }"
                  >{{ whenNext(deal.next, "later", now) ? `, ${whenNext(deal.next, "later", now)}` : "" }}</span
                >.
                <span v-if="deal.likely !== null" class="soft"
                  >Of a hundred such deals about {{ Math.round(deal.likely * 100) }} are won.</span
                >
                <span v-if="deal.over" class="gorse">It rests here {{ many(deal.over, "day") }} longer than meant.</span>
              </p>
              <p v-if="next?.needs.length" class="small soft">
                Before it comes to {{ next.name }} it must be known {{ several(next.needs) }}.
              </p>
            </template>
            <p v-if="may" class="row acts">
              <template v-if="deal.state === 'open'">
                <BButton v-if="next" variant="primary" :disabled="pending" @click="go({ stage: next.name })"
                  >To {{ next.name }} <kbd>→</kbd></BButton
                >
                <BButton v-if="before" variant="link" :disabled="pending" @click="go({ stage: before.name })"
                  >back to {{ before.name }} <kbd>←</kbd></BButton
                >
                <BButton variant="link" :disabled="pending" @click="go({ state: 'won' })">won <kbd>W</kbd></BButton>
                <BButton variant="link" :disabled="pending" @click="asking = 'lost'">lost, why <kbd>L</kbd></BButton>
                <BButton variant="link" @click="asking = 'enrol'">enrol <kbd>E</kbd></BButton>
              </template>
              <BButton v-else variant="outline-primary" :disabled="pending" @click="go({ state: 'open', again: true })"
                >Open it again</BButton
              >
            </p>
            <template v-if="deal.comes.length">
              <h2>What comes</h2>
              <ol class="ledger">
                <li v-for="(one, n) in deal.comes" :key="n">
                  <time class="soft">{{ one.at ? moment(one.at, now) : "some time" }}</time>
                  <span
                    >{{ WHAT[one.sort]
                    }}<RouterLink v-if="one.workflow" :to="{ name: 'workflow', params: { workflow: one.workflow } }">{{
                      one.words
                    }}</RouterLink
                    ><template v-else>{{ one.words }}</template
                    ><small v-if="one.who" class="soft">, {{ one.who }}</small></span
                  >
                </li>
              </ol>
            </template>
            <h2>What has been</h2>
            <ol class="ledger">
              <li v-for="(one, n) in deal.went" :key="n">
                <time class="soft">{{ one.at }}</time>
                <span
                  >{{ one.sentence
                  }}<small v-if="one.by" class="soft">
                    by
                    <RouterLink v-if="one.workflow" :to="{ name: 'workflow', params: { workflow: one.workflow } }">{{
                      one.by
                    }}</RouterLink><template v-else>{{ one.by }}</template></small
                  ></span
                >
              </li>
              <li v-if="!deal.went.length">
                <time class="soft">{{ deal.made }}</time> Made
              </li>
            </ol>
          </section>
          <DealAbout :key="deal.id" :deal="deal" :may="may" />
        </div>
        <LostAsk
          v-if="asking === 'lost'"
          :whom="who?.name ?? ''"
          :reasons="deal.reasons"
          @close="asking = ''"
          @lost="go({ state: 'lost', why: $event })" />
        <EnrolAsk v-if="asking === 'enrol'" :deals="[deal.id]" @close="asking = ''" @done="enrolled" />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  column-gap: 44px;
}
.sum {
  font: 19px/1.5 var(--serif);
  margin: 4px 0 8px;
}
.line {
  font: 17px/1.5 var(--serif);
  margin: 0 0 4px;
}
.acts {
  margin: 12px 0 4px;
  flex-wrap: wrap;
}
h2 {
  margin: 22px 0 4px;
  padding-top: 10px;
  border-top: 1px solid var(--ink);
}
.ledger {
  list-style: none;
  margin: 0;
  padding: 0;
}
.ledger li {
  display: grid;
  grid-template-columns: 128px minmax(0, 1fr);
  gap: 12px;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}
.ledger time {
  font-size: 14px;
}
@media (max-width: 860px) {
  .two {
    display: block;
  }
  .ledger li {
    display: block;
  }
  .ledger time {
    display: block;
  }
}
</style>
