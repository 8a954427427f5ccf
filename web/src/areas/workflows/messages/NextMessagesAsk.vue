<script setup lang="ts">
/** The next messages from this one, by a list of words: seen before they are made, and said one after the other where that is wanted. */
import { useQuery } from "@tanstack/vue-query";
import { refDebounced } from "@vueuse/core";
import { computed, ref } from "vue";

import { api, ok, type ApiError } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { timeOfDay } from "@/sentences/times";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { readable } from "../script/wordings";

const props = defineProps<{ message: number; name: string }>();
const emit = defineEmits<{ close: []; done: [said: string, script: number | null] }>();
const account = useAccount();
const touched = useTouched();
const words = ref("");
const rested = refDebounced(words, 300);
const publish = ref(false);
const scripted = ref(false);
const script = ref(`${props.name}, week by week`);
const first = ref("");
const days = ref(7);
const at = ref("10:00");
const path = computed(() => ({ params: { path: { account: account.value, message_id: props.message } } }));
const { data: plan, error } = useQuery({
  queryKey: ["next", account, () => props.message, rested],
  queryFn: () => ok(api.POST("/api/accounts/{account}/messages/{message_id}/next/plan", { ...path.value, body: { words: rested.value } })),
  enabled: () => rested.value.trim().includes("\n"),
  retry: false,
});
const faulty = computed(() => (error.value as ApiError | null)?.faults.words ?? "");
const fits = computed(() => !!plan.value?.length && plan.value.every((one) => !one.fault) && words.value === rested.value && !faulty.value);
const { pending, act, faults } = usePending({ fields: ["words", "first"] });
async function make() {
  await act(async () => {
    const body = {
      words: words.value,
      publish: publish.value,
      script: scripted.value ? script.value : "",
      first: first.value || null,
      days: days.value,
      at: timeOfDay(at.value) ?? "10:00",
    };
    const made = await ok(api.POST("/api/accounts/{account}/messages/{message_id}/next", { ...path.value, body }));
    await touched("/messages", "/messages/sayable", "/names", "/workflows");
    emit("done", `${many(made.made, "message")} written from “${props.name}”.`, made.script);
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="Make the next ones from this" wide @close="emit('close')">
    <form @submit.prevent="make">
      <p>
        <FormRow class="wide" label="Words that change, and by what" :fault="faults.words || faulty"
          ><BFormTextarea
            v-model="words"
            rows="5"
            class="wide"
            maxlength="50000"
            autofocus
            :placeholder="'week one; 10 April\nweek two; 17 April\nweek three; 24 April'"
        /></FormRow>
      </p>
      <p class="soft small">
        The first line says what stands in this message; each further line makes a message. Cells are parted by semicolons, or by tabs, as a
        spreadsheet pastes them.
      </p>
      <ol v-if="plan?.length && !faulty" class="plan" aria-label="What they will say">
        <li v-for="one in plan" :key="one.name">
          <b class="serif">{{ one.name }}</b>
          <span v-if="one.fault" class="rust small"> <StateMark is="failed" /> {{ one.fault }}</span>
          <span v-else-if="one.silent.length" class="gorse small">
            <StateMark is="look" /> “{{ one.silent.join("”, “") }}” is not in this message</span
          >
          <p v-for="text in one.texts" :key="text.after" class="serif text">{{ readable(text.after) }}</p>
          <p v-if="one.more" class="soft small">and {{ many(one.more, "more text", "more texts") }}</p>
        </li>
      </ol>
      <p><BFormCheckbox v-model="publish">Publish them at once, each with its checks</BFormCheckbox></p>
      <p><BFormCheckbox v-model="scripted">Write a script that says one after the other</BFormCheckbox></p>
      <div v-if="scripted" class="script">
        <FormRow label="The script is called"><BFormInput v-model.trim="script" required maxlength="120" /></FormRow>
        <FormRow label="From" :fault="faults.first"><BFormInput v-model="first" type="date" required /></FormRow>
        <FormRow label="every so many days"><BFormInput v-model.number="days" type="number" min="1" max="366" required /></FormRow>
        <FormRow label="at"><BFormInput v-model="at" inputmode="numeric" required @blur="at = timeOfDay(at) ?? '10:00'" /></FormRow>
      </div>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending || !fits">{{
          plan?.length ? `Write ${many(plan.length, "message")}` : "Write them"
        }}</BButton><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.wide,
.wide :deep(.form-control) {
  width: min(40rem, 100%);
}
p {
  margin: 0 0 8px;
}
.plan {
  max-height: 34vh;
  overflow: auto;
  padding-left: 24px;
  border-top: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding-block: 8px;
}
.text {
  white-space: pre-line;
  margin: 0 0 4px;
}
.script {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
}
</style>
