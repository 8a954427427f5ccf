<script setup lang="ts">
/** On a phone the areas are in a drawer; where there is room for the strip, nothing of it is loaded. */
import AreaLinks from "./AreaLinks.vue";
import type { Area } from "./areas";

defineProps<{ title: string; areas: Area[]; area?: string }>();
const open = defineModel<boolean>({ required: true });
</script>

<template>
  <BOffcanvas id="areas" v-model="open" :title="title" no-fade width="17rem">
    <AreaLinks :areas="areas" :area="area" vertical @go="open = false" />
  </BOffcanvas>
</template>
