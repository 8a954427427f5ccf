<script setup lang="ts">
/** What came of one workflow: in sentences, then line by line along its script, as it is read. */
import { computed } from "vue";
import { useRoute } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { useSubject } from "@/router/titles";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import CountedHow from "./CountedHow.vue";
import { usePeriod } from "./period";
import PeriodPick from "./PeriodPick.vue";
import ResultWays from "./ResultWays.vue";
import ScriptFigures from "./ScriptFigures.vue";
import WhatItAdded from "./WhatItAdded.vue";

const route = useRoute();
const may = useMay();
const { asked } = usePeriod();
const id = computed(() => Number(route.params.workflow));
const { data, ...reading } = useRead("/results/workflows/{workflow_id}", () => ({ path: { workflow_id: id.value }, query: asked.value }), {
  live: true,
  placeholderData: (before) => (before?.id === id.value ? before : undefined),
});
useSubject(() => data.value?.name);
</script>

<template>
  <div class="page">
    <ReadState :of="reading" what="These results" missing="There is no such workflow" page>
      <template v-if="data">
        <PageHead :title="data.name" :about="data.version ? `version ${data.version} runs` : 'not published'">
          <template #beside><PeriodPick :since="data.since" :until="data.until" :now="data.today" /></template>
          <RouterLink :to="{ name: 'workflow', params: { workflow: data.id } }">Its script</RouterLink>
          <RouterLink :to="{ name: 'workflow', params: { workflow: data.id }, query: { look: 'watch' } }">Who is inside</RouterLink>
        </PageHead>
        <ResultWays />
        <div class="top">
          <div>
            <p v-if="data.aim" class="sentence">It is for {{ data.aim }}.</p>
            <p v-else class="sentence">
              It does not say what it is for, so nobody can say what came of it<template v-if="may('workflows')"
                >: <RouterLink :to="{ name: 'workflow', params: { workflow: data.id } }">name its aim</RouterLink> in the head of its
                script</template
              >.
            </p>
            <p v-for="one in data.sentences" :key="one" class="sentence">{{ one }}</p>
            <p v-if="data.young" class="soft">{{ data.young }}</p>
          </div>
          <section v-if="data.to_do.length" class="next" aria-labelledby="worth-doing">
            <h2 id="worth-doing">Worth doing</h2>
            <ul>
              <li v-for="one in data.to_do" :key="one.step + one.what">
                <RouterLink :to="{ name: 'workflow', params: { workflow: data.id }, hash: `#${one.step}` }" class="thrift">{{
                  one.what
                }}</RouterLink>: {{ one.why }}.
              </li>
            </ul>
          </section>
        </div>
        <EmptyState v-if="!data.lines.length">It has never been published, so there is nothing to say.</EmptyState>
        <ScriptFigures v-else :data="data" />
        <WhatItAdded v-if="data.held" :data="data" />
        <CountedHow />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.top {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 30rem);
  gap: 34px;
  margin-bottom: 10px;
}
.top:not(:has(.next)) {
  display: block;
}
.sentence {
  font: 17px/1.45 var(--serif);
  margin: 0 0 4px;
  max-width: 50em;
}
h2 {
  font-size: 16px;
  border-bottom: 1px solid var(--ink);
  padding-bottom: 4px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  border-bottom: 1px solid var(--rule);
  padding: 4px 0;
}
@media (max-width: 900px) {
  .top {
    display: block;
  }
}
</style>
