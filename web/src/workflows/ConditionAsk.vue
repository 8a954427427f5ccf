<script setup lang="ts">
/** A condition about people asked for outside the script: edited with the same words, whatever way the script is looked at. */
import { computed, provide } from "vue";

import ConditionEdit from "./ConditionEdit.vue";
import { SCRIPT, useScript, type Look } from "./script";
import type { Condition } from "./written";

const model = defineModel<Condition>({ required: true });
provide(SCRIPT, { ...useScript(), look: computed<Look>(() => "write"), mayWrite: computed(() => true) });
</script>

<template>
  <ConditionEdit :condition="model" @change="$event && (model = $event)" />
</template>
