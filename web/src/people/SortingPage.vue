<script setup lang="ts">
/** What people are sorted by: the account's fields, its tags, its lists. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import PeopleTabs from "./PeopleTabs.vue";
import { useUses } from "./useUses";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value }));
const { data: details } = useAccountDetails();
const may = (right: string) => details.value?.rights.includes(right) ?? false;
const { data: fields, ...fieldsRead } = useQuery({ queryKey: ["fields", account], queryFn: () => ok(api.GET("/api/accounts/{account}/fields", { params: { path: path.value } })) });
const { data: tags, ...tagsRead } = useQuery({ queryKey: ["tags", account], queryFn: () => ok(api.GET("/api/accounts/{account}/tags", { params: { path: path.value } })) });
const { data: lists, ...listsRead } = useQuery({ queryKey: ["lists", account], queryFn: () => ok(api.GET("/api/accounts/{account}/lists", { params: { path: path.value } })) });
const { pending, act } = usePending();
const { places: usesOf, uses } = useUses();
const drafts = (tag: string) => [...new Set(uses("tag", tag).filter((one) => one.runs).map((one) => one.title))];
async function did(words: string, what: () => Promise<unknown>) {
  const done = await act(what);
  if (done) {
    tell(words);
    asking.value = undefined;
    cache.invalidateQueries();
  }
}

type Asking = { what: "field"; own?: Schemas["FieldOut"] } | { what: "tag"; own?: Schemas["TagRow"] } | { what: "merge"; own: Schemas["TagRow"] } | { what: "list"; own?: Schemas["ListOut"] };
const asking = ref<Asking>();
const { kinds, kindOf } = useFieldKinds();
const form = reactive({ name: "", kind: "text" as Schemas["FieldIn"]["kind"], choices: "", about: "", offered: false, offered_as: "", into: 0 });
function ask(next: Asking) {
  const own = (next.own ?? {}) as Partial<Schemas["FieldOut"] & Schemas["TagRow"] & Schemas["ListOut"]>;
  Object.assign(form, { name: own.name ?? "", kind: own.kind ?? "text", choices: (own.choices ?? []).join("\n"), about: own.about ?? "", offered: own.offered ?? false, offered_as: own.offered_as ?? "", into: 0 });
  asking.value = next;
}
function keep() {
  const now = asking.value;
  if (!now) return;
  const name = form.name;
  if (now.what === "field") {
    const body = { name, kind: form.kind, choices: form.choices.split("\n").filter((one) => one.trim()) };
    did(`The field “${name}” is kept.`, () => now.own ? ok(api.PUT("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: now.own.id } }, body })) : ok(api.POST("/api/accounts/{account}/fields", { params: { path: path.value }, body })));
  } else if (now.what === "tag") {
    const body = { name, about: form.about };
    did(`The tag “${name}” is kept.`, () => now.own ? ok(api.PUT("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: now.own.id } }, body })) : ok(api.POST("/api/accounts/{account}/tags", { params: { path: path.value }, body })));
  } else if (now.what === "merge") {
    did(`“${now.own.name}” is merged.`, () => ok(api.POST("/api/accounts/{account}/tags/{tag_id}/merge", { params: { path: { ...path.value, tag_id: now.own.id } }, body: { into: form.into } })));
  } else {
    did(`The list “${name}” is kept.`, () => ok(api.PUT("/api/accounts/{account}/lists", { params: { path: path.value }, body: { name, was: now.own?.name ?? "", about: form.about, offered: form.offered, offered_as: form.offered_as } })));
  }
}
const dropField = (one: Schemas["FieldOut"]) => did(`The field “${one.name}” is gone, with ${many(one.filled, "value")}.`, () => ok(api.DELETE("/api/accounts/{account}/fields/{field_id}", { params: { path: { ...path.value, field_id: one.id } } })));
const dropTag = (one: Schemas["TagRow"]) => did(`The tag “${one.name}” is gone.`, () => ok(api.DELETE("/api/accounts/{account}/tags/{tag_id}", { params: { path: { ...path.value, tag_id: one.id } } })));
const dropList = (one: Schemas["ListOut"]) => did(`The list “${one.name}” is gone.`, () => ok(api.POST("/api/accounts/{account}/lists/drop", { params: { path: path.value }, body: { name: one.name, was: "", about: "", offered: false, offered_as: "" } })));
const holding = ref("");
const shownTags = computed(() => (tags.value ?? []).filter((one) => `${one.name} ${one.about}`.toLowerCase().includes(holding.value.toLowerCase())));
/** Asked before something that takes values from people away. */
const sure = ref<{ words: string; go: () => Promise<void> }>();
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <h1>Fields, tags and lists</h1>
    <ReadState :of="[fieldsRead, tagsRead, listsRead]" what="Fields, tags and lists">
    <section>
      <div class="row"><h2>Fields</h2><span class="soft small">typed: conditions, messages, forms and files know them</span><span class="grow" /><button v-if="may('workflows')" class="plain" @click="ask({ what: 'field' })">New field</button></div>
      <table v-if="fields?.length">
        <thead><tr><th>Field</th><th>Kind</th><th class="num">People with a value</th><th>Used in</th><th /></tr></thead>
        <tbody>
          <tr v-for="one in fields" :key="one.id">
            <td class="serif">{{ one.name }}</td>
            <td>{{ kindOf(one.kind)?.label }}<small v-if="one.choices.length" class="soft"> · {{ one.choices.join(", ") }}</small></td>
            <td class="num">{{ one.filled }}</td>
            <td class="small">{{ usesOf("field", one.name).join(", ") || "–" }}</td>
            <td class="small acts"><template v-if="may('workflows')"><button class="link" @click="ask({ what: 'field', own: one })">Change</button><button class="link" @click="sure = { words: `The field “${one.name}” and ${many(one.filled, 'value')} would be gone for good.`, go: () => dropField(one) }">Drop</button></template></td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">No field yet. One could be “Boat”, a choice; or “Renewal”, a date that starts a workflow.</p>
    </section>
    <section>
      <div class="row"><h2>Tags</h2><label><span class="sr">Search tags</span><input v-model.trim="holding" type="search" placeholder="search tags" /></label><span class="grow" /><button v-if="may('people')" class="plain" @click="ask({ what: 'tag' })">New tag</button></div>
      <table v-if="shownTags.length">
        <thead><tr><th>Tag</th><th>Says</th><th class="num">People</th><th>Used in</th><th /></tr></thead>
        <tbody>
          <tr v-for="one in shownTags" :key="one.id">
            <td class="serif"><RouterLink :to="{ path: `/${account}/people`, query: { tag: one.name } }">{{ one.name }}</RouterLink></td>
            <td>{{ one.about || "–" }}</td>
            <td class="num">{{ one.contacts }}</td>
            <td class="small">{{ usesOf("tag", one.name).join(", ") || "–" }}</td>
            <td class="small acts"><button v-if="may('people')" class="link" @click="ask({ what: 'tag', own: one })">Change</button><template v-if="may('workflows')"><button class="link" @click="ask({ what: 'merge', own: one })">Merge…</button><button class="link" @click="sure = { words: `${many(one.contacts, 'person', 'people')} would lose the tag “${one.name}” for good.`, go: () => dropTag(one) }">Drop</button></template></td>
          </tr>
        </tbody>
      </table>
    </section>
    <section>
      <div class="row"><h2>Lists</h2><span class="soft small">offered ones are subjects that contacts choose on their own page</span><span class="grow" /><button v-if="may('people')" class="plain" @click="ask({ what: 'list' })">New list</button></div>
      <table v-if="lists?.length">
        <thead><tr><th>List</th><th>Says</th><th class="num">People</th><th>Offered to contacts as</th><th>Used in</th><th /></tr></thead>
        <tbody>
          <tr v-for="one in lists" :key="one.name">
            <td class="serif"><RouterLink :to="{ path: `/${account}/people`, query: { list: one.name } }">{{ one.name }}</RouterLink></td>
            <td>{{ one.about || "–" }}</td>
            <td class="num">{{ one.contacts }}</td>
            <td>{{ one.offered ? one.offered_as || one.name : "–" }}</td>
            <td class="small">{{ usesOf("list", one.name).join(", ") || "–" }}</td>
            <td class="small acts"><button v-if="may('people')" class="link" @click="ask({ what: 'list', own: one })">Change</button><button v-if="may('workflows')" class="link" @click="sure = { words: `The list “${one.name}” would be gone, with ${many(one.contacts, 'person', 'people')} taken off it.`, go: () => dropList(one) }">Drop</button></td>
          </tr>
        </tbody>
      </table>
      <p v-else class="soft">No list yet. One could be “Race days”, offered to contacts as a subject.</p>
    </section>

    </ReadState>
    <Ask v-if="sure" v-slot="{ close }" title="Take it away?" @close="sure = undefined">
      <p>{{ sure.words }} Workflows that use it say so in their checks.</p>
      <div class="actions"><button @click="sure?.go(); close()">Take it away</button><button class="link" @click="close">Not now</button></div>
    </Ask>
    <Ask v-if="asking" v-slot="{ close }" :title="asking.what === 'merge' ? `Merge the tag “${asking.own.name}”` : asking.own ? `The ${asking.what} “${asking.own.name}”` : `A new ${asking.what}`" @close="asking = undefined">
      <form class="form" @submit.prevent="keep">
        <label v-if="asking.what !== 'merge' && (!asking.own || may('workflows'))"><span>Name</span><input v-model.trim="form.name" required maxlength="80" autofocus /></label>
        <p v-if="asking.what !== 'merge' && asking.own && form.name !== asking.own.name" class="small soft"><template v-if="usesOf(asking.what, asking.own.name).length">Used in {{ usesOf(asking.what, asking.own.name).join(", ") }}: these take the new name, too. It is refused while a workflow runs with the old one.</template><template v-else>Used nowhere yet.</template></p>
        <template v-if="asking.what === 'field'">
          <label><span>Kind</span><select v-model="form.kind"><option v-for="kind in kinds" :key="kind.name" :value="kind.name">{{ kind.label }}</option></select></label>
          <label v-if="kindOf(form.kind)?.own_choices"><span>Choices, each on a line</span><textarea v-model="form.choices" rows="5" /></label>
          <p v-if="asking.own?.filled" class="small soft">Values that people have are read anew; if one cannot be, nothing changes and it is named.</p>
        </template>
        <label v-if="asking.what === 'tag' || asking.what === 'list'"><span>What it says of who has it</span><input v-model="form.about" maxlength="300" /></label>
        <template v-if="asking.what === 'list'">
          <label class="tick"><input v-model="form.offered" type="checkbox" /> contacts may choose it on their own page</label>
          <label v-if="form.offered"><span>It is called there</span><input v-model="form.offered_as" maxlength="200" placeholder="Race days and results" /></label>
        </template>
        <template v-if="asking.what === 'merge'">
          <label><span>Whoever has it gets</span><select v-model.number="form.into" required><option v-for="one in tags?.filter((tag) => asking && asking.what === 'merge' && tag.id !== asking.own.id)" :key="one.id" :value="one.id">{{ one.name }} ({{ one.contacts }})</option></select></label>
          <p v-if="usesOf('tag', asking.own.name).length" class="small">{{ usesOf("tag", asking.own.name).join(", ") }} will name the other.</p>
          <p v-if="drafts(asking.own.name).length" class="gorse small">▲ What runs of {{ drafts(asking.own.name).join(", ") }} goes on with “{{ asking.own.name }}” until it is published again.</p>
          <p class="small soft">Published workflows that start on the other tag start for those who did not have it.</p>
        </template>
        <div class="actions"><button :disabled="pending || (asking.what === 'merge' && !form.into)">{{ asking.what === "merge" ? "Merge" : "Keep" }}</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
section { margin-top: 22px; border-top: 1px solid var(--ink); padding-top: 10px; }
.acts { white-space: nowrap; }
.acts button { margin-right: 12px; }
.form { display: grid; gap: 12px; }
.form input:not([type="checkbox"]), .form select { width: 100%; }
.tick { display: flex; gap: 8px; align-items: baseline; }
</style>
