<script setup lang="ts">
/** The starter set: each workflow read as a script before it is taken, as a draft of one's own. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import ScriptPrint from "./ScriptPrint.vue";
import ReadState from "@/ui/ReadState.vue";

const account = useAccount();
const router = useRouter();
const chosen = ref("");
const { data, ...reading } = useRead("/starters", undefined, { staleTime: Infinity });
const starter = computed(() => data.value?.find((one) => one.key === chosen.value) ?? data.value?.[0]);
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { pending, act } = usePending();
async function take() {
  await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/starters/{key}", { params: { path: { account: account.value, key: starter.value?.key ?? "" } } }),
    );
    void router.push({ name: "workflow", params: { workflow: made.id } });
  });
}
</script>

<template>
  <ReadState :of="reading" what="The scripts" page>
    <div class="page starters">
      <div>
        <p class="small"><RouterLink :to="{ name: 'workflows' }">Back to the workflows</RouterLink></p>
        <h1>Begin from a script</h1>
        <p class="soft">Each becomes a draft of your own. Nothing is sent before you publish it.</p>
        <ul>
          <li v-for="one in data" :key="one.key">
            <BButton variant="link" class="serif" :aria-pressed="one.key === starter?.key" @click="chosen = one.key">{{
              one.document.name
            }}</BButton><small class="soft">{{ one.reading.over }}</small>
          </li>
        </ul>
      </div>
      <section v-if="starter" aria-label="The script">
        <div class="row">
          <h2>{{ starter.document.name }}</h2>
          <span class="grow" /><BButton v-if="may" variant="primary" :disabled="pending" @click="take">Use this one</BButton>
        </div>
        <p class="soft">{{ starter.document.description }}</p>
        <p class="serif sum">{{ starter.reading.summary }}</p>
        <ScriptPrint :steps="starter.document.steps" :lines="starter.reading.lines" />
      </section>
    </div>
  </ReadState>
</template>

<style scoped>
.starters {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 40px;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  border-top: 1px solid var(--rule);
  padding: 7px 0;
}
li small {
  display: block;
}
li button {
  font-size: 16.5px;
  text-align: left;
}
li button[aria-pressed="true"] {
  color: var(--ink);
  font-weight: 600;
  text-decoration: none;
}
section {
  border-left: 1px solid var(--rule);
  padding-left: 32px;
}
.sum {
  font-size: 16.5px;
}
@media (max-width: 760px) {
  .starters {
    grid-template-columns: 1fr;
  }
  section {
    border: 0;
    padding: 0;
  }
}
</style>
