<script setup lang="ts">
/** The account's tags: described, renamed, merged, taken away. */
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useMay } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import FormRow from "@/ui/FormRow.vue";
import { many } from "@/ui/words";
import MergeTags from "./MergeTags.vue";
import KeepAsk from "./KeepAsk.vue";
import { useKept } from "./useKept";

type Tag = Schemas["TagRow"];
const props = defineProps<{ tags: Tag[] }>();
const may = useMay();
const { path, pending, usesOf, keep, drop } = useKept();
const holding = ref("");
const shown = computed(() => props.tags.filter((one) => `${one.name} ${one.about}`.toLowerCase().includes(holding.value.toLowerCase())));
const merging = ref<Tag>();
const asking = ref<Tag | "new">();
/** The one that is changed; none while a new one is made. */
const own = computed(() => (asking.value === "new" ? undefined : asking.value));
const form = reactive({ name: "", about: "" });
function ask(one?: Tag) {
  Object.assign(form, { name: one?.name ?? "", about: one?.about ?? "" });
  asking.value = one ?? "new";
}
async function submit() {
  const id = own.value?.id;
  const body = { ...form };
  const kept = await keep(`The tag “${form.name}” is kept.`, () =>
    id
      ? ok(api.PUT("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: id } }, body }))
      : ok(api.POST("/api/accounts/{account}/tags", { params: { path: path.value }, body })),
  );
  if (kept) asking.value = undefined;
}
const takeAway = (one: Tag) =>
  drop(`${many(one.contacts, "person", "people")} would lose the tag “${one.name}” for good.`, `The tag “${one.name}” is gone.`, () =>
    ok(api.DELETE("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: one.id } } })),
  );
const COLUMNS: Column[] = [
  { key: "tag", label: "Tag", heads: true, class: "serif" },
  { key: "says", label: "Says" },
  { key: "people", label: "People", num: true },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <section>
    <div class="row">
      <h2>Tags</h2>
      <FormRow label="Search tags" hides-label><BFormInput v-model.trim="holding" type="search" placeholder="search tags" /></FormRow>
      <span class="grow" />
      <BButton v-if="may('people')" variant="outline-primary" @click="ask()">New tag</BButton>
    </div>
    <DataTable v-if="shown.length" caption="Tags" :rows="shown" :columns="COLUMNS">
      <template #tag="{ item: one }"
        ><RouterLink :to="{ name: 'people', query: { tag: one.name } }">{{ one.name }}</RouterLink></template
      >
      <template #says="{ item: one }">{{ one.about || "–" }}</template>
      <template #people="{ item: one }">{{ one.contacts }}</template>
      <template #used_in="{ item: one }">{{ usesOf("tag", one.name).join(", ") || "–" }}</template>
      <template #acts="{ item: one }"
        ><BButton v-if="may('people')" variant="link" @click="ask(one)">Change</BButton
        ><template v-if="may('workflows')"
          ><BButton variant="link" @click="merging = one">Merge…</BButton
          ><BButton variant="link" @click="takeAway(one)">Drop</BButton></template
        ></template
      >
    </DataTable>
    <MergeTags v-if="merging" :tag="merging" :tags="tags" @close="merging = undefined" />
    <KeepAsk
      v-if="asking"
      v-model:name="form.name"
      what="tag"
      :own="own"
      :uses="own ? usesOf('tag', own.name) : []"
      :may-rename="!own || may('workflows')"
      :pending="pending"
      @keep="submit"
      @close="asking = undefined">
      <FormRow label="What it says of who has it"><BFormInput v-model="form.about" maxlength="300" /></FormRow>
    </KeepAsk>
  </section>
</template>
