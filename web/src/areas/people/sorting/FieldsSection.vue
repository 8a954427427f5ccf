<script setup lang="ts">
/** The account's own fields: typed, so that conditions, messages, forms and files know them. */
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useMay } from "@/queries/account";
import { useFieldKinds } from "@/queries/useFieldKinds";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import { many } from "@/ui/words";
import KeepAsk from "./KeepAsk.vue";
import { useKept } from "./useKept";

type Field = Schemas["FieldOut"];
defineProps<{ fields: Field[] }>();
const may = useMay();
const { kinds, kindOf } = useFieldKinds();
const { path, pending, usesOf, keep, drop } = useKept();
const asking = ref<Field | "new">();
/** The one that is changed; none while a new one is made. */
const own = computed(() => (asking.value === "new" ? undefined : asking.value));
const form = reactive({ name: "", kind: "text" as Schemas["FieldIn"]["kind"], choices: "" });
function ask(one?: Field) {
  Object.assign(form, { name: one?.name ?? "", kind: one?.kind ?? "text", choices: one?.choices.join("\n") ?? "" });
  asking.value = one ?? "new";
}
async function submit() {
  const id = own.value?.id;
  const body = { name: form.name, kind: form.kind, choices: form.choices.split("\n").filter((one) => one.trim()) };
  const kept = await keep(`The field “${form.name}” is kept.`, () =>
    id
      ? ok(api.PUT("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: id } }, body }))
      : ok(api.POST("/api/accounts/{account}/fields", { params: { path: path.value }, body })),
  );
  if (kept) asking.value = undefined;
}
const takeAway = (one: Field) =>
  drop(
    `The field “${one.name}” and ${many(one.filled, "value")} would be gone for good.`,
    `The field “${one.name}” is gone, with ${many(one.filled, "value")}.`,
    () => ok(api.DELETE("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: one.id } } })),
  );
const COLUMNS: Column[] = [
  { key: "field", label: "Field", heads: true, class: "serif" },
  { key: "kind", label: "Kind" },
  { key: "people_with_a_value", label: "People with a value", num: true },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <section>
    <div class="row">
      <h2>Fields</h2>
      <span class="soft small">typed: conditions, messages, forms and files know them</span><span class="grow" />
      <BButton v-if="may('workflows')" variant="outline-primary" @click="ask()">New field</BButton>
    </div>
    <DataTable v-if="fields.length" caption="Fields" :rows="fields" :columns="COLUMNS">
      <template #field="{ item: one }">{{ one.name }}</template>
      <template #kind="{ item: one }"
        >{{ kindOf(one.kind)?.label }}<small v-if="one.choices.length" class="soft"> · {{ one.choices.join(", ") }}</small></template
      >
      <template #people_with_a_value="{ item: one }">{{ one.filled }}</template>
      <template #used_in="{ item: one }">{{ usesOf("field", one.name).join(", ") || "–" }}</template>
      <template #acts="{ item: one }"
        ><template v-if="may('workflows')"
          ><BButton variant="link" @click="ask(one)">Change</BButton><BButton variant="link" @click="takeAway(one)">Drop</BButton></template
        ></template
      >
    </DataTable>
    <p v-else class="soft">No field yet. One could be “Level”, a choice; or “Renewal”, a date that starts a workflow.</p>
    <KeepAsk
      v-if="asking"
      v-model:name="form.name"
      what="field"
      :own="own"
      :uses="own ? usesOf('field', own.name) : []"
      :may-rename="true"
      :pending="pending"
      @keep="submit"
      @close="asking = undefined">
      <FormRow label="Kind"
        ><BFormSelect v-model="form.kind"
          ><option v-for="kind in kinds" :key="kind.name" :value="kind.name">{{ kind.label }}</option></BFormSelect
        ></FormRow
      >
      <FormRow v-if="kindOf(form.kind)?.own_choices" label="Choices, each on a line"
        ><BFormTextarea v-model="form.choices" rows="5"
      /></FormRow>
      <p v-if="own?.filled" class="small soft">Values that people have are read anew; if one cannot be, nothing changes and it is named.</p>
    </KeepAsk>
  </section>
</template>
