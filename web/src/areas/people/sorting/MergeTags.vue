<script setup lang="ts">
/** Whoever has one tag gets another in its place, and so does whatever names it. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { useKept } from "./useKept";

const props = defineProps<{ tag: Schemas["TagRow"]; tags: Schemas["TagRow"][] }>();
const emit = defineEmits<{ close: [] }>();
const { path, pending, usesOf, uses, keep } = useKept();
const into = ref(0);
/** Workflows of which a version runs that names it. */
const running = computed(() => [
  ...new Set(
    uses("tag", props.tag.name)
      .filter((one) => one.runs)
      .map((one) => one.title),
  ),
]);
async function submit() {
  const params = { path: { ...path.value, tag_id: props.tag.id } };
  const merged = await keep(`“${props.tag.name}” is merged.`, () =>
    ok(api.POST("/api/accounts/{account}/tags/{tag_id}/merge", { params, body: { into: into.value } })),
  );
  if (merged) emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="`Merge the tag “${tag.name}”`" @close="emit('close')">
    <form class="form" @submit.prevent="submit">
      <FormRow label="Whoever has it gets"
        ><BFormSelect v-model="into" required
          ><option v-for="one in tags.filter((other) => other.id !== tag.id)" :key="one.id" :value="one.id">
            {{ one.name }} ({{ one.contacts }})
          </option></BFormSelect
        ></FormRow
      >
      <p v-if="usesOf('tag', tag.name).length" class="small">{{ usesOf("tag", tag.name).join(", ") }} will name the other.</p>
      <p v-if="running.length" class="gorse small">
        <StateMark is="look" /> What runs of {{ running.join(", ") }} goes on with “{{ tag.name }}” until it is published again.
      </p>
      <p class="small soft">Published workflows that start on the other tag start for those who did not have it.</p>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending || !into">Merge</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
