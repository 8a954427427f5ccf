<script setup lang="ts">
/** Lines from another account name things that are not here: each is matched, or made by being used. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import NamePick from "@/sentences/editors/NamePick.vue";
import type { Step } from "./document";
import { useScript } from "./script";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ steps: Step[]; missing: Schemas["Missing"][] }>();
const emit = defineEmits<{ close: []; done: [steps: Step[]] }>();
const script = useScript();
const names = ref(props.missing.map((one) => one.name));
const { pending, act } = usePending();
const left = computed(() => props.missing.filter((one, index) => !one.offered && !isHere(one.kind, names.value[index] ?? "")));
function isHere(kind: string, name: string): boolean {
  return (script.names.value[kind] ?? []).some((one) => one.name === name.trim());
}
async function paste() {
  const swaps = props.missing.flatMap((one, index): [string, string, string][] => {
    const name = (names.value[index] ?? "").trim();
    return name && name !== one.name ? [[one.kind, one.name, name]] : [];
  });
  await act(async () => {
    const { steps } = await ok(
      api.POST("/api/accounts/{account}/lines", {
        params: { path: { account: script.account.value } },
        body: { steps: props.steps, names: swaps },
      }),
    );
    emit("done", steps);
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="These lines name things that are not here" @close="emit('close')">
    <form @submit.prevent="paste">
      <p class="soft">
        Choose what stands for each in this account. A tag, list, field or form may stay as it is: it comes into being by being used.
      </p>
      <p v-for="(one, index) in missing" :key="one.kind + one.name" class="note">
        the {{ one.kind }} <strong class="serif">{{ one.name }}</strong><small v-if="one.times > 1" class="soft"
          >, {{ one.times }} times</small
        >
        is here
        <NamePick
          :model-value="names[index] ?? ''"
          :kind="one.kind"
          :label="`${one.kind} in place of ${one.name}`"
          @update:model-value="names[index] = $event"
          @enter="paste" />
      </p>
      <p v-if="left.length" class="gorse">
        <StateMark is="look" /> {{ many(left.length, "name is", "names are") }} still not here; the checks will say where.
      </p>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Paste the lines</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
