<script setup lang="ts">
/** The columns of a file that was read are matched with what contacts have; what its first rows would become is looked at
 * before anybody comes in. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { useSettled } from "@/ui/useSettled";
import { cut, many } from "@/ui/words";
import ImportRules from "./ImportRules.vue";

type Import = Schemas["ImportOut"];
const props = defineProps<{ imported: Import }>();
const emit = defineEmits<{ read: [again: Import]; started: [now: Import]; another: [] }>();
const OWN: [string, string][] = [
  ["full_name", "Full name"],
  ["first_name", "First name"],
  ["last_name", "Last name"],
  ["email", "Email"],
  ["mobile", "Mobile"],
  ["further_email", "Further email"],
  ["further_mobile", "Further number"],
  ["post", "Postal address"],
  ["zone", "Time zone"],
  ["social", "Social handle"],
  ["responsible", "Responsible, by name or email"],
  ["tags", "Tags, by comma"],
  ["lists", "Lists, by comma"],
  ["note", "Note"],
  ["no_email", "No emails, where it says yes"],
  ["no_text", "No texts, where it says yes"],
];
const account = useAccount();
const path = computed(() => ({ account: account.value, import_id: props.imported.id }));
const touched = useTouched();
const { pending, act } = usePending();
const { data: fields } = useRead("/fields");
const { kinds, kindOf } = useFieldKinds();

const settings = reactive<Schemas["ImportSettings"]>({ ...props.imported.settings });
const tag = ref(props.imported.settings.tags?.join(", ") ?? "");
const list = ref(props.imported.settings.lists?.join(", ") ?? "");
/** What a column can become as a field of its own, the likeliest first; a field of choices names them beforehand. */
const madeOf = (guessed?: string) =>
  kinds.value.filter((one) => !one.own_choices).sort((a, b) => Number(b.name === guessed) - Number(a.name === guessed));
const readAs = computed(() =>
  Object.entries(props.imported.found)
    .map(([what, words]) => (what === "kind" ? words : `${what}: ${words}`))
    .join(" · "),
);
function match(column: number, target: string) {
  const mapping = { ...settings.mapping };
  const rules = { ...settings.rules };
  delete rules[String(column)];
  if (target) mapping[String(column)] = target;
  else delete mapping[String(column)];
  // What comes beside them stands somewhere: in the first place, until another is chosen.
  const beside = props.imported.beside.find((one) => target.startsWith(`${one.name}:`));
  const places = beside ? { [beside.name]: beside.places[0] ?? "", ...settings.places } : settings.places;
  Object.assign(settings, { mapping, rules, places });
}

const asked = computed<Schemas["ImportSettings"]>(() => ({ ...settings, tags: cut(tag.value), lists: cut(list.value) }));
const still = useSettled(asked, 150);
const { data: looked, error: wrong } = useQuery({
  queryKey: ["import-look", account, () => props.imported.id, still],
  queryFn: () => ok(api.POST("/api/accounts/{account}/imports/{import_id}/look", { params: { path: path.value }, body: still.value })),
  placeholderData: (before) => before,
  retry: false,
});
async function start() {
  await act(async () =>
    emit(
      "started",
      await ok(api.POST("/api/accounts/{account}/imports/{import_id}/start", { params: { path: path.value }, body: asked.value })),
    ),
  );
  void touched("everything");
}
/** Rows above the headings are left out once somebody says where those stand. */
const headingsAt = ref<number>();
async function beginAt() {
  const row = Number(headingsAt.value);
  if (!row) return;
  await act(async () =>
    emit(
      "read",
      await ok(api.POST("/api/accounts/{account}/imports/{import_id}/headings", { params: { path: path.value }, body: { row } })),
    ),
  );
}

/** What the file brings beside people, as its columns are matched. */
const brought = computed(() =>
  props.imported.beside.filter((one) => Object.values(settings.mapping).some((target) => target.startsWith(`${one.name}:`))),
);

const BECOMES: Record<string, [string, string]> = {
  new: ["kelp", "new"],
  changed: ["gorse", "changed"],
  same: ["soft", "left as is"],
  fault: ["rust", "not taken"],
};
const columnsOfFile = computed(() => props.imported.columns.map((name, index) => ({ name, index })));
const MATCH_COLUMNS: Column[] = [
  { key: "column", label: "Column", heads: true, class: "serif" },
  { key: "sample", label: "In the first rows", class: "soft sample" },
  { key: "is", label: "Is the contact’s" },
  { key: "read_as", label: "Read as" },
];
const lookedRows = computed(
  () => looked.value?.rows.map((row) => ({ ...row.fields, row: row.row, becomes: row.becomes, words: row.words })) ?? [],
);
const found = computed(() => [...new Set((looked.value?.rows ?? []).flatMap((row) => Object.keys(row.fields)))]);
const lookedColumns = computed((): Column[] => [
  { key: "row", label: "Row", class: "soft" },
  { key: "becomes", label: "Becomes", hidesLabel: true },
  ...found.value.map((name) => ({ key: name, label: name.replaceAll("_", " ") })),
  { key: "words", label: "Why", hidesLabel: true, class: "small" },
]);
</script>

<template>
  <p class="soft">{{ many(imported.row_count, "row") }} · {{ readAs }}</p>
  <form class="row small begins" @submit.prevent="beginAt">
    <FormRow label="The headings stand further down? In row"
      ><BFormInput
        v-model="headingsAt"
        type="number"
        :min="imported.first_row"
        :max="imported.first_row + imported.row_count"
        class="short"
    /></FormRow>
    <BButton variant="outline-primary" type="submit" :disabled="pending || !headingsAt">They begin there</BButton>
  </form>
  <DataTable class="match" caption="What each column is" :rows="columnsOfFile" :columns="MATCH_COLUMNS">
    <template #column="{ item: column }">{{ column.name }}</template>
    <template #sample="{ item: column }">{{
      imported.sample
        .map((row) => row[column.index])
        .filter(Boolean)
        .join(", ")
    }}</template>
    <template #is="{ item: column }"
      ><BFormSelect
        :aria-label="`What ${column.name} is`"
        :model-value="settings.mapping[String(column.index)] ?? ''"
        @update:model-value="match(column.index, String($event))">
        <option value="">left out</option>
        <optgroup label="The contact’s own">
          <option v-for="[target, words] in OWN" :key="target" :value="target">{{ words }}</option>
        </optgroup>
        <optgroup v-for="one in imported.beside" :key="one.name" :label="`A ${one.name} of theirs`">
          <option v-for="(words, target) in one.columns" :key="target" :value="target">{{ words }}</option>
        </optgroup>
        <optgroup v-if="fields?.length" label="Fields of the account">
          <option v-for="one in fields" :key="one.id" :value="`field:${one.name}`">{{ one.name }} ({{ kindOf(one.kind)?.label }})</option>
        </optgroup>
        <optgroup label="A new field">
          <option v-for="kind in madeOf(imported.kinds[column.index])" :key="kind.name" :value="`new:${kind.name}:${column.name}`">
            “{{ column.name }}”, {{ kind.label }}
          </option>
        </optgroup>
      </BFormSelect></template
    >
    <template #read_as="{ item: column }"
      ><BFormSelect
        v-if="looked?.choices[String(column.index)]"
        :aria-label="`How ${column.name} is read`"
        :model-value="looked.rules[String(column.index)]"
        @update:model-value="settings.rules = { ...settings.rules, [String(column.index)]: String($event) as never }">
        <option v-for="(words, rule) in looked.choices[String(column.index)]" :key="rule" :value="rule">{{ words }}</option>
      </BFormSelect></template
    >
  </DataTable>
  <h2>As they would come in</h2>
  <p v-if="wrong" class="fault" role="alert">{{ wrong.message }}</p>
  <p v-if="looked" class="told" role="status">
    Of the first {{ many(looked.looked_at, "row") }}: <span class="kelp">{{ looked.new }} new</span>,
    <span class="gorse">{{ looked.changed }} changed</span>, {{ looked.same }} left as they are,
    <span :class="{ rust: looked.faults }">{{ looked.faults }} not taken</span>.
  </p>
  <div class="across">
    <DataTable v-if="looked?.rows.length" caption="What the first rows become" :rows="lookedRows" :columns="lookedColumns">
      <template #becomes="{ item }"
        ><StateMark is="broken" v-if="item.becomes === 'fault'" />
        <span :class="BECOMES[item.becomes]?.[0]">{{ BECOMES[item.becomes]?.[1] }}</span></template
      >
      <template #words="{ item }"
        ><span :class="item.becomes === 'fault' ? 'rust' : 'soft'">{{ item.words }}</span></template
      >
    </DataTable>
  </div>
  <form class="how" @submit.prevent="start">
    <ImportRules v-model:settings="settings" v-model:tag="tag" v-model:list="list" :beside="brought" />
    <div class="actions">
      <BButton variant="primary" type="submit" :disabled="pending || !!wrong">Bring in {{ many(imported.row_count, "row") }}</BButton
      ><BButton variant="link" @click="emit('another')">Another file</BButton>
    </div>
  </form>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
}
.told {
  font-size: 16px;
}
:deep(.sample) {
  max-width: 22rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
:deep(.match) select {
  max-width: 17rem;
}
.across {
  overflow-x: auto;
}
.how {
  display: grid;
  grid-template-columns: 1fr 1.4fr 1fr;
  gap: 8px 34px;
  border-top: 1px solid var(--ink);
  margin-top: 18px;
  padding-top: 14px;
}
.how .actions {
  grid-column: 1 / -1;
  margin-top: 0;
}
.begins {
  align-items: end;
  margin: 0 0 8px;
}
.begins .short {
  width: 6rem;
}
@media (max-width: 760px) {
  .how {
    grid-template-columns: 1fr;
  }
}
</style>
