<script setup lang="ts">
/** The account's lists; offered ones are subjects that contacts choose on their own page. */
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useMay } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import { many } from "@/ui/words";
import KeepAsk from "./KeepAsk.vue";
import { useKept } from "./useKept";

type List = Schemas["ListOut"];
defineProps<{ lists: List[] }>();
const may = useMay();
const { path, pending, usesOf, keep, drop } = useKept();
const asking = ref<List | "new">();
/** The one that is changed; none while a new one is made. */
const own = computed(() => (asking.value === "new" ? undefined : asking.value));
const form = reactive({ name: "", about: "", offered: false, offered_as: "" });
function ask(one?: List) {
  const { name = "", about = "", offered = false, offered_as = "" } = one ?? {};
  Object.assign(form, { name, about, offered, offered_as });
  asking.value = one ?? "new";
}
async function submit() {
  const was = own.value?.name ?? "";
  const kept = await keep(`The list “${form.name}” is kept.`, () =>
    ok(api.PUT("/api/accounts/{account}/lists", { params: { path: path.value }, body: { ...form, was } })),
  );
  if (kept) asking.value = undefined;
}
const takeAway = (one: List) =>
  drop(
    `The list “${one.name}” would be gone, with ${many(one.contacts, "person", "people")} taken off it.`,
    `The list “${one.name}” is gone.`,
    () =>
      ok(
        api.POST("/api/accounts/{account}/lists/drop", {
          params: { path: path.value },
          body: { name: one.name, was: "", about: "", offered: false, offered_as: "" },
        }),
      ),
  );
const COLUMNS: Column[] = [
  { key: "list", label: "List", heads: true, class: "serif" },
  { key: "says", label: "Says" },
  { key: "people", label: "People", num: true },
  { key: "offered_to_contacts_as", label: "Offered to contacts as" },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <section>
    <div class="row">
      <h2>Lists</h2>
      <span class="soft small">offered ones are subjects that contacts choose on their own page</span><span class="grow" />
      <BButton v-if="may('people')" variant="outline-primary" @click="ask()">New list</BButton>
    </div>
    <DataTable v-if="lists.length" caption="Lists" :rows="lists" :columns="COLUMNS">
      <template #list="{ item: one }"
        ><RouterLink :to="{ name: 'people', query: { list: one.name } }">{{ one.name }}</RouterLink></template
      >
      <template #says="{ item: one }">{{ one.about || "–" }}</template>
      <template #people="{ item: one }">{{ one.contacts }}</template>
      <template #offered_to_contacts_as="{ item: one }">{{ one.offered ? one.offered_as || one.name : "–" }}</template>
      <template #used_in="{ item: one }">{{ usesOf("list", one.name).join(", ") || "–" }}</template>
      <template #acts="{ item: one }"
        ><BButton v-if="may('people')" variant="link" @click="ask(one)">Change</BButton
        ><BButton v-if="may('workflows')" variant="link" @click="takeAway(one)">Drop</BButton></template
      >
    </DataTable>
    <p v-else class="soft">No list yet. One could be “News”, offered to contacts as a subject.</p>
    <KeepAsk
      v-if="asking"
      v-model:name="form.name"
      what="list"
      :own="own"
      :uses="own ? usesOf('list', own.name) : []"
      :may-rename="!own || may('workflows')"
      :pending="pending"
      @keep="submit"
      @close="asking = undefined">
      <FormRow label="What it says of who has it"><BFormInput v-model="form.about" maxlength="300" /></FormRow>
      <BFormCheckbox v-model="form.offered">contacts may choose it on their own page</BFormCheckbox>
      <FormRow v-if="form.offered" label="It is called there"
        ><BFormInput v-model="form.offered_as" maxlength="200" placeholder="What is new, once a month"
      /></FormRow>
    </KeepAsk>
  </section>
</template>
