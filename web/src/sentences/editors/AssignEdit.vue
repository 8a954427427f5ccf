<script setup lang="ts">
/** Who is to do it: the responsible member, whoever caused it, a member, some in turn. */
import { ref } from "vue";

import { cut } from "@/ui/words";
import type { Assign } from "../written";
import NamePick from "./NamePick.vue";

defineProps<{ label: string }>();
const assign = defineModel<Assign>({ required: true });
const emit = defineEmits<{ enter: [] }>();
const names = ref(assign.value.members.join(", "));
function set(typed: string) {
  names.value = typed;
  assign.value = { ...assign.value, members: cut(typed) };
}
</script>

<template>
  <select v-model="assign.to" :aria-label="label">
    <option value="responsible">the responsible member</option>
    <option value="causer">whoever caused it</option>
    <option value="owner">the owner of the deal</option>
    <option value="member">a member</option>
    <option value="in_turn">members in turn</option>
  </select>
  <NamePick
    v-if="assign.to === 'member' || assign.to === 'in_turn'"
    :model-value="names"
    kind="member"
    label="which"
    :several="assign.to === 'in_turn'"
    @update:model-value="set"
    @enter="emit('enter')" />
</template>
