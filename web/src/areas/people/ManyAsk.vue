<script setup lang="ts">
/** What is done with many people at once: a tag, a list, or who looks after them; each can be taken back. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { chosen } from "@/shared/chosen";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

type Named = { name: string };
const props = defineProps<{
  what: "tag" | "list" | "assign";
  who: Schemas["Chosen"];
  count: number;
  tags: Named[];
  lists: Named[];
  members: Named[];
}>();
const emit = defineEmits<{ close: []; done: [words: string, back?: () => Promise<unknown>] }>();
const account = useAccount();
const in_ = { path: { account: account.value } };
const name = ref("");
const { pending, act } = usePending();

async function tag(add: boolean) {
  const tag = name.value;
  const put = (who: Schemas["Chosen"], on: boolean) =>
    ok(api.POST("/api/accounts/{account}/contacts/tag", { params: in_, body: { who, tag, add: on } }));
  await act(async () => {
    const { count, ids } = await put(props.who, add);
    const words = `${many(count, "contact")} ${add ? "got" : "lost"} the tag “${tag}”.`;
    emit("done", words, count ? () => put(chosen({ ids }), !add) : undefined);
  });
}
async function list(add: boolean) {
  const list = name.value;
  const put = (who: Schemas["Chosen"], on: boolean) =>
    ok(api.POST("/api/accounts/{account}/contacts/list", { params: in_, body: { who, list, add: on } }));
  await act(async () => {
    const { count, ids } = await put(props.who, add);
    const words = `${many(count, "contact")} ${add ? "came onto" : "left"} the list “${list}”.`;
    emit("done", words, count ? () => put(chosen({ ids }), !add) : undefined);
  });
}
async function assign() {
  const give = (who: Schemas["Chosen"], member: string) =>
    ok(api.POST("/api/accounts/{account}/contacts/assign", { params: in_, body: { who, member } }));
  await act(async () => {
    const { count, before } = await give(props.who, name.value);
    const back = () => Promise.all(Object.entries(before).map(([name, ids]) => give(chosen({ ids }), name)));
    emit("done", `${many(count, "contact")} now with ${name.value || "nobody of their own"}.`, count ? back : undefined);
  });
}
const whom = computed(() => many(props.count, "person", "people"));
const title = computed(
  () => ({ tag: `Tag ${whom.value}`, list: `Put ${whom.value} on a list`, assign: `Who looks after ${whom.value}?` })[props.what],
);
const give = (add: boolean) => (props.what === "tag" ? tag(add) : list(add));
</script>

<template>
  <Ask v-slot="{ close }" :title="title" @close="$emit('close')">
    <form v-if="what === 'assign'" @submit.prevent="assign">
      <FormRow label="Member"
        ><BFormSelect v-model="name"
          ><option value="">nobody of their own</option>
          <option v-for="one in members" :key="one.name" :value="one.name">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Give them to {{ name || "nobody" }}</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
    <form v-else @submit.prevent="give(true)">
      <FormRow :label="what === 'tag' ? 'Tag' : 'List'"
        ><BFormInput v-model.trim="name" list="all-names" required :maxlength="what === 'tag' ? 80 : 120"
      /></FormRow>
      <datalist id="all-names"><option v-for="one in what === 'tag' ? tags : lists" :key="one.name" :value="one.name" /></datalist>
      <p v-if="what === 'tag'" class="soft small">Published workflows that start on this tag start for those who did not have it.</p>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">{{ what === "tag" ? "Tag them" : "Put them on it" }}</BButton>
        <BButton variant="outline-primary" :disabled="pending || !name" @click="give(false)">{{
          what === "tag" ? "Take the tag off" : "Take them off it"
        }}</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
