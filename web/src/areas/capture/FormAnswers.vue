<script setup lang="ts">
/** What was sent by a form: that which came in, what was kept apart as spam, tests. */
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const props = defineProps<{ form: Schemas["FormOut"] }>();
const which = defineModel<"taken" | "spam" | "test">({ required: true });
const account = useAccount();
const path = computed(() => ({ account: account.value, form_id: props.form.id }));
const touched = useTouched();
const { data: answers } = useRead("/forms/{form_id}/answers", () => ({ path: path.value, query: { state: which.value } }), { live: true });
const { act } = usePending();
async function letIn(answer: number) {
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/forms/{form_id}/answers/{answer_id}/let-in", {
        params: { path: { ...path.value, answer_id: answer } },
      }),
    ),
  );
  void touched("/forms/{form_id}", "/forms");
}
const COLUMNS: Column[] = [
  { key: "when", label: "When" },
  { key: "who", label: "Who", class: "serif" },
  { key: "what_they_said", label: "What they said" },
  { key: "from", label: "From", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small" },
];
</script>

<template>
  <div class="row answers">
    <h2>Answers</h2>
    <FormRow label="Which answers" hides-label
      ><BFormSelect v-model="which"
        ><option value="taken">that came in</option>
        <option value="spam">kept apart as spam</option>
        <option value="test">tests</option></BFormSelect
      ></FormRow
    >
  </div>
  <DataTable v-if="answers?.length" caption="Answers" :rows="answers" :columns="COLUMNS">
    <template #when="{ item: one }">{{ one.at }}</template>
    <template #who="{ item: one }"
      ><RouterLink v-if="one.contact_id" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink
      ><small v-if="one.by" class="soft"> by {{ one.by }}</small></template
    >
    <template #what_they_said="{ item: one }"
      ><template v-for="(value, label, n) in one.answers" :key="label"
        >{{ n ? " · " : "" }}<span class="soft">{{ label }}</span> {{ value }}</template
      ></template
    >
    <template #from="{ item: one }">{{ Object.values(one.hidden).join(", ") }}</template>
    <template #acts="{ item: one }"
      ><span v-if="one.reason && one.state === 'spam'" class="gorse"><StateMark is="waits" /> {{ one.reason }}</span>
      <BButton v-if="one.state === 'spam'" variant="link" @click="letIn(one.id)">Let in</BButton></template
    >
  </DataTable>
  <p v-else-if="answers" class="soft">
    {{
      which === "taken"
        ? `Nobody has sent it yet${form.for_team ? "" : "; its link or code can go out now"}.`
        : which === "spam"
          ? "Nothing was kept apart."
          : "No test yet."
    }}
  </p>
  <p class="soft small">{{ many(form.taken, "answer") }} in all.</p>
</template>

<style scoped>
.answers {
  margin-top: 24px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
</style>
