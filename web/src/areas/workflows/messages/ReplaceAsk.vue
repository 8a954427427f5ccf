<script setup lang="ts">
/** Finds words in all messages, or those of a label, shows what each would say then, and replaces them in those that are ticked. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";

import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { useSettled } from "@/ui/useSettled";
import { many } from "@/ui/words";
import { readable } from "../script/wordings";

defineProps<{ labels: readonly string[] }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const touched = useTouched();
const find = ref("");
const by = ref("");
const label = ref("");
const left = ref(new Set<number>());
const path = computed(() => ({ account: account.value }));
const typed = computed(() => ({ find: find.value, by: by.value, label: label.value, only: [] as number[] }));
const asked = useSettled(typed, 250);
const { data: found } = useQuery({
  queryKey: ["replace", account, asked],
  queryFn: () => ok(api.POST("/api/accounts/{account}/messages/replace/plan", { params: { path: path.value }, body: asked.value })),
  enabled: () => asked.value.find !== "",
  placeholderData: (before) => before,
});
const hits = computed(() => (find.value ? (found.value ?? []) : []));
watch([find, label], () => (left.value = new Set()));
const ticked = computed(() => hits.value.filter((one) => !one.fault && !left.value.has(one.id)));
function tick(id: number, on: boolean) {
  const next = new Set(left.value);
  if (on) next.delete(id);
  else next.add(id);
  left.value = next;
}
const { pending, act } = usePending();
async function replace() {
  await act(async () => {
    const body = { ...asked.value, only: ticked.value.map((one) => one.id) };
    const { changed } = await ok(api.POST("/api/accounts/{account}/messages/replace", { params: { path: path.value }, body }));
    await touched("/messages");
    tell(`${many(changed, "draft")} changed. What is said stays until they are published.`);
    emit("close");
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="Find and replace" wide @close="emit('close')">
    <form @submit.prevent="replace">
      <p class="row">
        <FormRow label="Find"><BFormInput v-model="find" autofocus maxlength="200" /></FormRow>
        <FormRow label="Say instead"><BFormInput v-model="by" maxlength="200" /></FormRow>
        <FormRow v-if="labels.length" label="In"
          ><BFormSelect v-model="label"
            ><option value="">all messages</option>
            <option v-for="one in labels" :key="one" :value="one">those labelled {{ one }}</option></BFormSelect
          ></FormRow
        >
      </p>
      <ul v-if="hits.length">
        <li v-for="one in hits" :key="one.id">
          <BFormCheckbox
            :model-value="!one.fault && !left.has(one.id)"
            :disabled="!!one.fault"
            @update:model-value="tick(one.id, $event === true)"
            >{{ one.name }}</BFormCheckbox
          >
          <p v-for="(text, at) in one.texts" :key="at" class="serif text">
            <del class="soft">{{ readable(text.before) }}</del><br />{{ readable(text.after) }}
          </p>
          <p v-if="one.more" class="soft small">and {{ one.more }} more</p>
          <p v-if="one.fault" class="rust small">{{ one.fault }}</p>
        </li>
      </ul>
      <p v-else-if="find" class="soft">No message says that.</p>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending || !ticked.length || asked !== typed"
          >Replace in {{ many(ticked.length, "message") }}</BButton
        >
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 10px 0;
  max-height: 44vh;
  overflow: auto;
}
li {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
.text {
  margin: 2px 0 6px 26px;
}
</style>
