<script setup lang="ts">
/** The keys of the page at hand, asked for by "?". */
import { computed } from "vue";
import { useRoute } from "vue-router";

import Ask from "@/ui/Ask.vue";
import { EVERYWHERE, PAGE_KEYS } from "./pageKeys";

const emit = defineEmits<{ close: [] }>();
const route = useRoute();
const keys = computed(() => [...(PAGE_KEYS[String(route.name)] ?? []), ...EVERYWHERE]);
</script>

<template>
  <Ask v-slot="{ close }" title="Keys" @close="emit('close')">
    <dl>
      <template v-for="[key, words] in keys" :key="key"
        ><dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ words }}</dd></template
      >
    </dl>
    <div class="actions"><BButton variant="outline-primary" @click="close">Back to the page</BButton></div>
  </Ask>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 7.5em 1fr;
  gap: 6px 14px;
  margin: 0;
}
dd {
  margin: 0;
}
</style>
