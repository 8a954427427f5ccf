<script setup lang="ts">
/** What a workflow is for, in a sentence. */
import { valueOf } from "@/ui/events";
import { useScript } from "./script";

const script = useScript();
const describe = (event: Event) => script.change((doc) => void (doc.description = valueOf(event)), "description");
</script>

<template>
  <input
    class="description"
    :value="script.doc.value.description"
    aria-label="What it is for"
    placeholder="What is it for? One sentence for your colleagues"
    maxlength="2000"
    :disabled="!script.mayWrite.value"
    @input="describe" />
</template>

<style scoped>
.description {
  width: 100%;
  max-width: 46em;
  border-color: transparent;
  background: transparent;
  padding: 1px 0;
  color: var(--soft);
}
.description:hover,
.description:focus {
  border-bottom-color: var(--rule);
}
</style>
