<script setup lang="ts">
/** Below the message of a line: keeping it in the library, or saying one of the library instead. */
import { ref } from "vue";

import { api, ok } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import type { Kind, Step } from "../script/document";
import { useScript } from "../script/script";
import { say } from "./sayable";

const props = defineProps<{ step: Step; kind: Kind }>();
const script = useScript();
const touched = useTouched();
const { data: sayable } = useRead("/messages/sayable");
const keeping = ref(false);
const named = ref("");
const { pending, act, faults } = usePending({ fields: ["name"] });
function ask() {
  const said = props.step as unknown as { name?: string; message?: { name: string } };
  named.value = said.name ?? said.message?.name ?? "";
  keeping.value = true;
}
async function keep() {
  await act(async () => {
    const body = { name: named.value, line: props.step };
    const message = await ok(
      api.POST("/api/accounts/{account}/messages/keep", { params: { path: { account: script.account.value } }, body }),
    );
    script.change((doc) => say(doc, props.step.id, message));
    keeping.value = false;
    await touched("/messages", "/messages/sayable", "/names");
    tell(`“${message.name}” is in the library, and this line says it.`);
  });
}
function choose(name: string) {
  const message = sayable.value?.find((one) => one.name === name);
  if (message) script.change((doc) => say(doc, props.step.id, message));
}
</script>

<template>
  <div class="library small">
    <form v-if="keeping" @submit.prevent="keep">
      <FormRow label="In the library it is called" :fault="faults.name"
        ><BFormInput v-model.trim="named" required maxlength="120" autofocus
      /></FormRow>
      <p class="acts">
        <BButton type="submit" variant="primary" :disabled="pending">Keep it there</BButton>
        <BButton variant="link" @click="keeping = false">Not now</BButton>
      </p>
    </form>
    <p v-else class="acts">
      <BButton variant="link" @click="ask">Keep it in the library</BButton>
      <BFormSelect
        v-if="sayable?.length"
        model-value=""
        class="pick"
        aria-label="Say one of the library instead"
        @update:model-value="choose(String($event))">
        <option value="">say one of the library instead…</option>
        <option v-for="one in sayable" :key="one.name">{{ one.name }}</option>
      </BFormSelect>
    </p>
  </div>
</template>

<style scoped>
.library {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 8px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  margin: 6px 0 0;
}
.pick {
  width: auto;
  max-width: 100%;
}
</style>
