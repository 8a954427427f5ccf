<script setup lang="ts">
/** A condition about people, edited in words anywhere. */
import Anywhere from "./Anywhere.vue";
import ConditionEdit from "./ConditionEdit.vue";
import type { Condition } from "./written";

const model = defineModel<Condition>({ required: true });
</script>

<template>
  <Anywhere open><ConditionEdit :condition="model" @change="$event && (model = $event)" /></Anywhere>
</template>
