<script setup lang="ts">
/** Whether a deal is made for who comes in, in which stage, and worth what. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import FormRow from "@/ui/FormRow.vue";

type Made = Schemas["MakesDeal"];
const props = defineProps<{ made?: Made | null }>();
const emit = defineEmits<{ change: [made: Made | null] }>();
const { data: pipelines } = useRead("/set-up/pipelines");
const stages = computed(() =>
  (pipelines.value ?? []).flatMap((one) => one.stages.map((stage) => ({ pipeline: one.name, stage: stage.name }))),
);
const at = computed(() => stages.value.findIndex((one) => one.pipeline === props.made?.pipeline && one.stage === props.made.stage));
function choose(value: unknown) {
  const where = stages.value[Number(value)];
  emit("change", where ? { name: "", worth: "0", ...props.made, ...where } : null);
}
const set = (part: Partial<Made>) => props.made && emit("change", { ...props.made, ...part });
</script>

<template>
  <template v-if="stages.length">
    <FormRow label="A deal is made for them"
      ><BFormSelect :model-value="String(at)" @update:model-value="choose"
        ><option value="-1">no</option>
        <option v-for="(one, n) in stages" :key="n" :value="String(n)">in {{ one.stage }} of {{ one.pipeline }}</option></BFormSelect
      ></FormRow
    >
    <FormRow v-if="made" label="What the deal is about"
      ><BFormInput
        :model-value="made.name"
        :model-modifiers="{ lazy: true }"
        maxlength="200"
        placeholder="what they came by"
        @update:model-value="set({ name: String($event) })"
    /></FormRow>
    <FormRow v-if="made" label="Worth"
      ><BFormInput
        :model-value="String(made.worth ?? 0)"
        :model-modifiers="{ lazy: true }"
        type="number"
        min="0"
        max="100000000000"
        @update:model-value="set({ worth: String($event || 0) })"
    /></FormRow>
  </template>
</template>
