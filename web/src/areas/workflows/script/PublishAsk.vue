<script setup lang="ts">
/** What publishing would do, in sentences, and the deliberate act: who is inside and who matches already are asked about. */
import { computed, ref } from "vue";

import { useRead } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ workflow: number }>();
const emit = defineEmits<{ close: []; done: [said: string] }>();
const account = useAccount();
const path = { account: account.value, workflow_id: props.workflow };
const inside = ref<"finish" | "move">("finish");
const enrol = ref(false);
const despite = ref(false);
const { data: plan, ...planRead } = useRead("/workflows/{workflow_id}/publish", () => ({ path: path }), { gcTime: 0, staleTime: 0 });
/** How many stay where they are, and what changes for the others, those alike together. */
const stay = computed(() => plan.value?.moves.filter((one) => !one.changes.length).reduce((sum, one) => sum + one.count, 0) ?? 0);
const moves = computed(() => plan.value?.moves.filter((one) => one.changes.length) ?? []);
const { pending, act } = usePending();
async function publish() {
  const body = { revision: plan.value?.revision ?? 0, inside: inside.value, enrol: enrol.value, despite: despite.value };
  await act(async () => {
    const done = await ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/publish", { params: { path }, body })).catch(
      async (error: unknown) => {
        await planRead.refetch(); // what somebody else wrote meanwhile is looked at before it can be pressed again
        throw error;
      },
    );
    const said = [`Version ${done.workflow.version} is published.`];
    if (done.moved) said.push(`${many(done.moved, "person was", "people were")} moved to it.`);
    if (done.enrolled) said.push(`${many(done.enrolled, "person came", "people came")} in.`);
    emit("done", said.join(" "));
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="Publish" wide @close="emit('close')">
    <ReadState :of="planRead" what="What publishing does">
      <template v-if="plan">
        <template v-if="plan.errors.length">
          <p class="serif big">{{ many(plan.errors.length, "thing stands", "things stand") }} in the way:</p>
          <p v-for="one in plan.errors" :key="one" class="note rust"><StateMark is="failed" /> {{ one }}</p>
        </template>
        <template v-else>
          <p class="serif big">This becomes version {{ plan.version }}. From now on people come in {{ plan.starts || "by no way yet" }}.</p>
          <p v-if="plan.matching" class="note">
            <BFormCheckbox v-model="enrol"
              ><strong>{{ many(plan.matching, "person matches", "people match") }} this already.</strong> Enrol them now, as far as the
              entry rules let them; left alone, they do not come in.</BFormCheckbox
            >
          </p>
          <p v-else class="note">Nobody is written to by publishing: nobody matches already.</p>
          <fieldset v-if="plan.inside" class="note">
            <legend>
              <strong>{{ many(plan.inside, "person is", "people are") }} inside</strong>
            </legend>
            <BFormRadio v-model="inside" class="way" value="finish" name="inside">They finish the version they came in by.</BFormRadio>
            <BFormRadio v-model="inside" class="way" value="move" name="inside">They are moved to the new one, step by step:</BFormRadio>
            <ul class="moves" :class="{ soft: inside !== 'move' }">
              <li v-if="stay">{{ many(stay, "person stays", "people stay") }} where they are, and nothing changes for them.</li>
              <li v-for="one in moves" :key="`${one.version}-${one.step}`">
                {{ many(one.count, "person", "people") }} at <span class="serif">{{ one.where }}</span><small class="soft">
                  version {{ one.version }}</small
                >
                <div v-for="change in one.changes" :key="change" class="serif change">{{ change }}</div>
              </li>
            </ul>
          </fieldset>
          <template v-if="plan.changes.length">
            <h3>What changes</h3>
            <p v-for="change in plan.changes" :key="change" class="note serif">{{ change }}</p>
          </template>
          <div v-if="plan.failing.length" class="note" role="alert">
            <p class="rust">
              <StateMark is="failed" /> {{ plan.failing.length }} of {{ many(plan.scenarios, "scenario") }}
              {{ plan.failing.length === 1 ? "does" : "do" }} not come true any more:
            </p>
            <p v-for="one in plan.failing" :key="one.name" class="serif">“{{ one.name }}”: {{ one.failures.join(" ") }}</p>
            <BFormCheckbox v-model="despite">Publish although {{ plan.failing.length === 1 ? "it fails" : "they fail" }}</BFormCheckbox>
          </div>
          <p v-else-if="plan.scenarios" class="note kelp">
            <StateMark is="done" /> {{ many(plan.scenarios, "scenario holds", "scenarios hold") }}.
          </p>
          <p v-for="warning in plan.warnings" :key="warning" class="note gorse"><StateMark is="look" /> {{ warning }}</p>
        </template>
      </template>
    </ReadState>
    <div class="actions">
      <BButton
        variant="primary"
        :disabled="pending || !plan || plan.errors.length > 0 || (plan.failing.length > 0 && !despite)"
        @click="publish"
        >{{ pending ? "Publishing…" : `Publish version ${plan?.version ?? ""}` }}</BButton
      >
      <BButton variant="link" @click="close">Not now</BButton>
    </div>
  </Ask>
</template>

<style scoped>
.big {
  font-size: 17px;
}
h3 {
  margin: 14px 0 4px;
}
.way {
  display: block;
  margin: 3px 0;
}
.moves {
  margin: 4px 0 0 22px;
  padding: 0;
  list-style: none;
  max-height: 34vh;
  overflow: auto;
}
.moves li {
  margin: 4px 0;
}
.change {
  padding-left: 14px;
}
</style>
