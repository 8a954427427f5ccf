<script setup lang="ts">
/** What people are sorted by: the account's fields, its tags, its lists. */
import { computed, reactive, ref } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { useUses } from "@/shared/useUses";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";

const account = useAccount();
const touched = useTouched();
const path = computed(() => ({ account: account.value }));
const may = useMay();
const { data: fields, ...fieldsRead } = useRead("/fields");
const { data: tags, ...tagsRead } = useRead("/tags");
const { data: lists, ...listsRead } = useRead("/lists");
const { pending, act } = usePending();
const { places: usesOf, uses } = useUses();
const drafts = (tag: string) => [
  ...new Set(
    uses("tag", tag)
      .filter((one) => one.runs)
      .map((one) => one.title),
  ),
];
async function did(words: string, what: () => Promise<unknown>) {
  const done = await act(what);
  if (done) {
    tell(words);
    asking.value = undefined;
    void touched("/tags", "/lists", "/fields", "/names");
  }
}

type Asking =
  | { what: "field"; own?: Schemas["FieldOut"] }
  | { what: "tag"; own?: Schemas["TagRow"] }
  | { what: "merge"; own: Schemas["TagRow"] }
  | { what: "list"; own?: Schemas["ListOut"] };
const asking = ref<Asking>();
const { kinds, kindOf } = useFieldKinds();
const form = reactive({
  name: "",
  kind: "text" as Schemas["FieldIn"]["kind"],
  choices: "",
  about: "",
  offered: false,
  offered_as: "",
  into: 0,
});
function ask(next: Asking) {
  const own = (next.own ?? {}) as Partial<Schemas["FieldOut"] & Schemas["TagRow"] & Schemas["ListOut"]>;
  Object.assign(form, {
    name: own.name ?? "",
    kind: own.kind ?? "text",
    choices: (own.choices ?? []).join("\n"),
    about: own.about ?? "",
    offered: own.offered ?? false,
    offered_as: own.offered_as ?? "",
    into: 0,
  });
  asking.value = next;
}
function keep() {
  const now = asking.value;
  if (!now) return;
  const name = form.name;
  if (now.what === "field") {
    const body = { name, kind: form.kind, choices: form.choices.split("\n").filter((one) => one.trim()) };
    void did(`The field “${name}” is kept.`, () =>
      now.own
        ? ok(api.PUT("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: now.own.id } }, body }))
        : ok(api.POST("/api/accounts/{account}/fields", { params: { path: path.value }, body })),
    );
  } else if (now.what === "tag") {
    const body = { name, about: form.about };
    void did(`The tag “${name}” is kept.`, () =>
      now.own
        ? ok(api.PUT("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: now.own.id } }, body }))
        : ok(api.POST("/api/accounts/{account}/tags", { params: { path: path.value }, body })),
    );
  } else if (now.what === "merge") {
    void did(`“${now.own.name}” is merged.`, () =>
      ok(
        api.POST("/api/accounts/{account}/tags/{tag_id}/merge", {
          params: { path: { ...path.value, tag_id: now.own.id } },
          body: { into: form.into },
        }),
      ),
    );
  } else {
    void did(`The list “${name}” is kept.`, () =>
      ok(
        api.PUT("/api/accounts/{account}/lists", {
          params: { path: path.value },
          body: { name, was: now.own?.name ?? "", about: form.about, offered: form.offered, offered_as: form.offered_as },
        }),
      ),
    );
  }
}
const dropField = (one: Schemas["FieldOut"]) =>
  did(`The field “${one.name}” is gone, with ${many(one.filled, "value")}.`, () =>
    ok(api.DELETE("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: one.id } } })),
  );
const dropTag = (one: Schemas["TagRow"]) =>
  did(`The tag “${one.name}” is gone.`, () =>
    ok(api.DELETE("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: one.id } } })),
  );
const dropList = (one: Schemas["ListOut"]) =>
  did(`The list “${one.name}” is gone.`, () =>
    ok(
      api.POST("/api/accounts/{account}/lists/drop", {
        params: { path: path.value },
        body: { name: one.name, was: "", about: "", offered: false, offered_as: "" },
      }),
    ),
  );
const holding = ref("");
const shownTags = computed(() =>
  (tags.value ?? []).filter((one) => `${one.name} ${one.about}`.toLowerCase().includes(holding.value.toLowerCase())),
);
/** Asked before something that takes values from people away. */
const sure = ref<{ words: string; go: () => Promise<void> }>();
const FIELDS_COLUMNS: Column[] = [
  { key: "field", label: "Field", heads: true, class: "serif" },
  { key: "kind", label: "Kind" },
  { key: "people_with_a_value", label: "People with a value", num: true },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
const TAGS_COLUMNS: Column[] = [
  { key: "tag", label: "Tag", heads: true, class: "serif" },
  { key: "says", label: "Says" },
  { key: "people", label: "People", num: true },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
const LISTS_COLUMNS: Column[] = [
  { key: "list", label: "List", heads: true, class: "serif" },
  { key: "says", label: "Says" },
  { key: "people", label: "People", num: true },
  { key: "offered_to_contacts_as", label: "Offered to contacts as" },
  { key: "used_in", label: "Used in", class: "small" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <h1>Fields, tags and lists</h1>
    <ReadState :of="[fieldsRead, tagsRead, listsRead]" what="Fields, tags and lists">
      <section>
        <div class="row">
          <h2>Fields</h2>
          <span class="soft small">typed: conditions, messages, forms and files know them</span><span class="grow" /><BButton
            v-if="may('workflows')"
            variant="outline-primary"
            @click="ask({ what: 'field' })"
            >New field</BButton
          >
        </div>
        <DataTable v-if="fields?.length" caption="Fields" :rows="fields" :columns="FIELDS_COLUMNS">
          <template #field="{ item: one }">{{ one.name }}</template>
          <template #kind="{ item: one }"
            >{{ kindOf(one.kind)?.label }}<small v-if="one.choices.length" class="soft"> · {{ one.choices.join(", ") }}</small></template
          >
          <template #people_with_a_value="{ item: one }">{{ one.filled }}</template>
          <template #used_in="{ item: one }">{{ usesOf("field", one.name).join(", ") || "–" }}</template>
          <template #acts="{ item: one }"
            ><template v-if="may('workflows')"
              ><BButton variant="link" @click="ask({ what: 'field', own: one })">Change</BButton
              ><BButton
                variant="link"
                @click="
                  sure = {
                    words: `The field “${one.name}” and ${many(one.filled, 'value')} would be gone for good.`,
                    go: () => dropField(one),
                  }
                "
                >Drop</BButton
              ></template
            ></template
          >
        </DataTable>
        <p v-else class="soft">No field yet. One could be “Level”, a choice; or “Renewal”, a date that starts a workflow.</p>
      </section>
      <section>
        <div class="row">
          <h2>Tags</h2>
          <FormRow label="Search tags" hides-label><BFormInput v-model.trim="holding" type="search" placeholder="search tags" /></FormRow
          ><span class="grow" /><BButton v-if="may('people')" variant="outline-primary" @click="ask({ what: 'tag' })">New tag</BButton>
        </div>
        <DataTable v-if="shownTags.length" caption="Tags" :rows="shownTags" :columns="TAGS_COLUMNS">
          <template #tag="{ item: one }"
            ><RouterLink :to="{ name: 'people', query: { tag: one.name } }">{{ one.name }}</RouterLink></template
          >
          <template #says="{ item: one }">{{ one.about || "–" }}</template>
          <template #people="{ item: one }">{{ one.contacts }}</template>
          <template #used_in="{ item: one }">{{ usesOf("tag", one.name).join(", ") || "–" }}</template>
          <template #acts="{ item: one }"
            ><BButton v-if="may('people')" variant="link" @click="ask({ what: 'tag', own: one })">Change</BButton
            ><template v-if="may('workflows')"
              ><BButton variant="link" @click="ask({ what: 'merge', own: one })">Merge…</BButton
              ><BButton
                variant="link"
                @click="
                  sure = {
                    words: `${many(one.contacts, 'person', 'people')} would lose the tag “${one.name}” for good.`,
                    go: () => dropTag(one),
                  }
                "
                >Drop</BButton
              ></template
            ></template
          >
        </DataTable>
      </section>
      <section>
        <div class="row">
          <h2>Lists</h2>
          <span class="soft small">offered ones are subjects that contacts choose on their own page</span><span class="grow" /><BButton
            v-if="may('people')"
            variant="outline-primary"
            @click="ask({ what: 'list' })"
            >New list</BButton
          >
        </div>
        <DataTable v-if="lists?.length" caption="Lists" :rows="lists" :columns="LISTS_COLUMNS">
          <template #list="{ item: one }"
            ><RouterLink :to="{ name: 'people', query: { list: one.name } }">{{ one.name }}</RouterLink></template
          >
          <template #says="{ item: one }">{{ one.about || "–" }}</template>
          <template #people="{ item: one }">{{ one.contacts }}</template>
          <template #offered_to_contacts_as="{ item: one }">{{ one.offered ? one.offered_as || one.name : "–" }}</template>
          <template #used_in="{ item: one }">{{ usesOf("list", one.name).join(", ") || "–" }}</template>
          <template #acts="{ item: one }"
            ><BButton v-if="may('people')" variant="link" @click="ask({ what: 'list', own: one })">Change</BButton
            ><BButton
              v-if="may('workflows')"
              variant="link"
              @click="
                sure = {
                  words: `The list “${one.name}” would be gone, with ${many(one.contacts, 'person', 'people')} taken off it.`,
                  go: () => dropList(one),
                }
              "
              >Drop</BButton
            ></template
          >
        </DataTable>
        <p v-else class="soft">No list yet. One could be “News”, offered to contacts as a subject.</p>
      </section>
    </ReadState>
    <Ask v-if="sure" v-slot="{ close }" title="Take it away?" @close="sure = undefined">
      <p>{{ sure.words }} Workflows that use it say so in their checks.</p>
      <div class="actions">
        <BButton
          variant="primary"
          @click="
            sure?.go();
            close();
          "
          >Take it away</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </Ask>
    <Ask
      v-if="asking"
      v-slot="{ close }"
      :title="
        asking.what === 'merge'
          ? `Merge the tag “${asking.own.name}”`
          : asking.own
            ? `The ${asking.what} “${asking.own.name}”`
            : `A new ${asking.what}`
      "
      @close="asking = undefined">
      <form class="form" @submit.prevent="keep">
        <FormRow v-if="asking.what !== 'merge' && (!asking.own || may('workflows'))" label="Name"
          ><BFormInput v-model.trim="form.name" required maxlength="80" autofocus
        /></FormRow>
        <p v-if="asking.what !== 'merge' && asking.own && form.name !== asking.own.name" class="small soft">
          <template v-if="usesOf(asking.what, asking.own.name).length"
            >Used in {{ usesOf(asking.what, asking.own.name).join(", ") }}: these take the new name, too. It is refused while a workflow
            runs with the old one.</template
          ><template v-else>Used nowhere yet.</template>
        </p>
        <template v-if="asking.what === 'field'">
          <FormRow label="Kind"
            ><BFormSelect v-model="form.kind"
              ><option v-for="kind in kinds" :key="kind.name" :value="kind.name">{{ kind.label }}</option></BFormSelect
            ></FormRow
          >
          <FormRow v-if="kindOf(form.kind)?.own_choices" label="Choices, each on a line"
            ><BFormTextarea v-model="form.choices" rows="5"
          /></FormRow>
          <p v-if="asking.own?.filled" class="small soft">
            Values that people have are read anew; if one cannot be, nothing changes and it is named.
          </p>
        </template>
        <FormRow v-if="asking.what === 'tag' || asking.what === 'list'" label="What it says of who has it"
          ><BFormInput v-model="form.about" maxlength="300"
        /></FormRow>
        <template v-if="asking.what === 'list'">
          <BFormCheckbox v-model="form.offered" class="tick">contacts may choose it on their own page</BFormCheckbox>
          <FormRow v-if="form.offered" label="It is called there"
            ><BFormInput v-model="form.offered_as" maxlength="200" placeholder="What is new, once a month"
          /></FormRow>
        </template>
        <template v-if="asking.what === 'merge'">
          <FormRow label="Whoever has it gets"
            ><BFormSelect v-model="form.into" required
              ><option
                v-for="one in tags?.filter((tag) => asking && asking.what === 'merge' && tag.id !== asking.own.id)"
                :key="one.id"
                :value="one.id">
                {{ one.name }} ({{ one.contacts }})
              </option></BFormSelect
            ></FormRow
          >
          <p v-if="usesOf('tag', asking.own.name).length" class="small">
            {{ usesOf("tag", asking.own.name).join(", ") }} will name the other.
          </p>
          <p v-if="drafts(asking.own.name).length" class="gorse small">
            <StateMark is="look" /> What runs of {{ drafts(asking.own.name).join(", ") }} goes on with “{{ asking.own.name }}” until it is
            published again.
          </p>
          <p class="small soft">Published workflows that start on the other tag start for those who did not have it.</p>
        </template>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="pending || (asking.what === 'merge' && !form.into)">{{
            asking.what === "merge" ? "Merge" : "Keep"
          }}</BButton><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
section {
  margin-top: 22px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
.form {
  display: grid;
  gap: 12px;
}
.form input:not([type="checkbox"]),
.form select {
  width: 100%;
}
.tick {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
