<script setup lang="ts">
/** The lead score: points at the left, rules as sentences, marks on a ruler with how many stand where; what would change before it counts. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";

import { api, ok } from "@/api/client";
import { useMay, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Anywhere from "@/sentences/Anywhere.vue";
import ContactPick from "@/shared/ContactPick.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { many, number } from "@/ui/words";
import BarredFields from "./score/BarredFields.vue";
import LearnedPoints from "./score/LearnedPoints.vue";
import ScoreAside from "./score/ScoreAside.vue";
import ScorePick from "./score/ScorePick.vue";
import ScoreRule from "./score/ScoreRule.vue";
import ScoreRuler from "./score/ScoreRuler.vue";
import type { Rules } from "./score/rules";
import { useScoreChanges } from "./score/useScoreChanges";

const account = useAccount();
const rights = useMay();
const may = computed(() => rights("workflows"));
const { data: score, ...reading } = useRead("/score", undefined, { live: true });
const contact = ref<number>();
const contactName = ref("");
/** Which of the account's scores is looked at; "" is the lead score. */
const of = ref("");
const asked = computed(() => ({
  query: { revision: score.value?.revision ?? 0, of: of.value, ...(contact.value && { contact: contact.value }) },
}));
const { data: found, ...comparing } = useRead("/score/compared", asked, { live: true, placeholderData: keepPreviousData });
const drafted = computed(() => (score.value?.revision ?? 0) > 0);
const counting = computed(
  () => new Set([...(score.value?.counting.being ?? []), ...(score.value?.counting.doing ?? [])].map((one) => one.name)),
);
const wasOf = (name: string) =>
  [...(score.value?.counting.being ?? []), ...(score.value?.counting.doing ?? [])].find((one) => one.name === name);

const rules = computed(() => score.value?.rules as Rules | undefined);
/** The rules of this score, each with its place among all. */
const mine = <R extends { score: string }>(all: R[] = []) =>
  all.map((one, at) => ({ one, at })).filter(({ one }) => one.score === of.value);
const marks = computed(() => (score.value?.rules.marks ?? []).filter((one) => one.score === of.value));
watch(rules, (now) => {
  if (of.value && !now?.further.includes(of.value)) of.value = "";
});

const changes = useScoreChanges(score, of);
const { pending, set, setBeing, setDoing, setMarks, dropBeing, dropDoing, addBeing, addDoing, addScore, dropScore, leave, count, stop } =
  changes;

const have = computed(() => (found.value?.bars ?? []).reduce((sum, one) => sum + one.before, 0));
const top = computed(
  () => (score.value?.counting.marks ?? []).filter((one) => one.score === of.value).sort((a, b) => b.at_least - a.at_least)[0],
);
const atTop = computed(() =>
  (found.value?.moves ?? []).filter((one) => one.before === top.value?.name).reduce((sum, one) => sum + one.count, 0),
);
async function chosen(id: number | undefined) {
  contact.value = id;
  contactName.value = "";
  if (!id) return;
  const where = { account: account.value, contact_id: id };
  contactName.value = (await ok(api.GET("/api/accounts/{account}/contacts/{contact_id}", { params: { path: where } }))).name;
}
/** The one who moves most is shown beside the rules until somebody else is chosen. */
watch(found, (now) => {
  const first = now?.who[0];
  if (!contact.value && first) {
    contact.value = first.id;
    contactName.value = first.name;
  }
});
const showing = ref<"rules" | "learned" | "was">("rules");
const WAYS = [
  ["rules", "Rules"],
  ["learned", "Learned"],
  ["was", "As it was"],
] as const;
async function take(points: Record<string, number>) {
  const anew = <R extends { name: string; points: number }>(one: R): R => ({ ...one, points: points[one.name] ?? one.points });
  await set((rules) => ({ ...rules, being: rules.being.map(anew), doing: rules.doing.map(anew) }));
  showing.value = "rules";
}
const gives = (name: string) => found.value?.of_one[name] as [number, number] | undefined;
</script>

<template>
  <div class="page">
    <ReadState :of="reading" what="The lead score">
      <div v-if="score" class="two">
        <section>
          <PageHead
            :title="of || 'Lead score'"
            :about="drafted ? `changes not counted yet, kept ${score.changed}${score.by ? ` by ${score.by}` : ''}` : ''">
            <BButton v-if="drafted && may" variant="link" :disabled="pending" @click="leave">Leave the rules as they count</BButton>
          </PageHead>
          <ScorePick v-model="of" :further="rules?.further ?? []" :may="may" @add="addScore" @drop="dropScore" />
          <p v-if="found" class="sum">
            {{ many(have, "person has one", "people have one") }}.
            <template v-if="top"
              >{{ number(atTop) }} {{ atTop === 1 ? "stands" : "stand" }} at <i>{{ top.name }}</i> now.</template
            >
            <span v-if="found.looked_at < found.people" class="soft"
              >Counted on {{ number(found.looked_at) }} of {{ number(found.people) }}.</span
            >
          </p>
          <ScoreRuler
            :bars="found?.bars ?? []"
            :step="found?.step ?? 5"
            :marks="marks"
            :moves="found?.moves ?? []"
            :drafted="drafted"
            :may="may"
            :of="of"
            @marks="setMarks" />
          <nav class="ways" aria-label="The score">
            <BButton
              v-for="[way, words] in WAYS"
              :key="way"
              variant="link"
              :class="{ on: showing === way }"
              :aria-pressed="showing === way"
              @click="showing = way"
              >{{ words }}</BButton
            >
            <span class="grow" />
            <span class="soft small">people</span>
            <ContactPick class="one" :model-value="contact" :name="contactName || 'somebody'" no-invented @update:model-value="chosen" />
          </nav>
          <Anywhere v-if="showing === 'rules'" :open="may">
            <h2>Who they are <small class="soft">as long as it holds</small></h2>
            <ScoreRule
              v-for="{ one, at: n } in mine(rules?.being)"
              :key="`b${n}`"
              :points="one.points"
              :when="one.when"
              :name="one.name"
              :state="counting.has(one.name) ? (wasOf(one.name)?.points === one.points ? '' : `was ${wasOf(one.name)?.points}`) : 'new'"
              :people="found?.rules[one.name]"
              :gives="gives(one.name)"
              :may="may"
              @points="setBeing(n, { points: $event })"
              @when="setBeing(n, { when: $event })"
              @drop="dropBeing(n)" />
            <p v-if="may" class="write">
              <BButton variant="link" :disabled="pending" @click="addBeing">One more of who they are…</BButton>
            </p>
            <h2>What they do <small class="soft">from the moment they do it</small></h2>
            <ScoreRule
              v-for="{ one, at: n } in mine(rules?.doing)"
              :key="`d${n}`"
              :points="one.points"
              :on="one.on"
              :limit="one.limit ?? null"
              :half-life="one.half_life ?? null"
              :name="one.name"
              :state="counting.has(one.name) ? (wasOf(one.name)?.points === one.points ? '' : `was ${wasOf(one.name)?.points}`) : 'new'"
              :people="found?.rules[one.name]"
              :gives="gives(one.name)"
              :may="may"
              @points="setDoing(n, { points: $event })"
              @on="setDoing(n, { on: $event })"
              @limit="setDoing(n, { limit: $event })"
              @half-life="setDoing(n, { half_life: $event })"
              @drop="dropDoing(n)" />
            <p v-if="may" class="write">
              <BButton variant="link" :disabled="pending" @click="addDoing">One more of what they do…</BButton>
            </p>
            <BarredFields :barred="(score.rules as Rules).barred" :may="may" @barred="set((rules) => ({ ...rules, barred: $event }))" />
            <p v-if="found && contact" class="whole">
              {{ contactName }}: <span class="soft">{{ Math.round(found.one_before * 10) / 10 }}</span><template v-if="drafted">
                → <b>{{ Math.round(found.one_after * 10) / 10 }}</b></template
              >
            </p>
          </Anywhere>
          <LearnedPoints v-else-if="showing === 'learned'" :of="of" :may="may" :pending="pending" @take="take" />
          <ol v-else class="was">
            <li v-for="(one, n) in score.versions" :key="n">
              <b>{{ one.since }}</b><span class="soft"> {{ one.by }}</span>
              <p v-for="each in [...one.rules.being, ...one.rules.doing].filter((one) => one.score === of)" :key="each.name">
                <span class="points">{{ each.points > 0 ? "+" : "" }}{{ each.points }}</span> {{ each.name }}
              </p>
            </li>
            <li v-if="!score.versions.length" class="soft">The rules have not been changed since they count.</li>
          </ol>
        </section>
        <ReadState :of="comparing" what="What would change">
          <ScoreAside v-if="found" :score="score" :found="found" :may="may" :pending="pending" @count="count" @stop="stop" />
        </ReadState>
      </div>
    </ReadState>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  column-gap: 34px;
}
.sum {
  font: 17px/1.45 var(--serif);
  margin: 4px 0;
}
.ways {
  display: flex;
  gap: 22px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
}
.ways .on {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
  box-shadow: 0 2px 0 var(--ink);
}
h2 {
  font: italic 600 16px var(--serif);
  margin: 10px 0 2px 76px;
}
h2 small {
  font: 13px var(--sans);
  padding-left: 8px;
}
.write {
  margin: 2px 0 0 76px;
}
.whole {
  text-align: right;
  border-top: 1px solid var(--ink);
  margin: 10px 0 0 60%;
  padding-top: 4px;
}
.was {
  list-style: none;
  padding: 0;
}
.was li {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}
.was p {
  margin: 2px 0;
  font-family: var(--serif);
}
.points {
  display: inline-block;
  width: 4.5em;
  text-align: right;
  padding-right: 10px;
  font: 600 15px var(--sans);
}
@media (max-width: 980px) {
  .two {
    display: block;
  }
}
</style>
