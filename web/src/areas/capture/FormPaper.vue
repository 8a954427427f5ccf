<script setup lang="ts">
/** A form as it will be, in the account's brand. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import FormQuestions from "@/shared/FormQuestions.vue";

defineProps<{ design: Schemas["FormDesign"]; name: string }>();
const { data: details } = useAccountDetails();
const { data: brand } = useRead("/brand");
const looks = computed(() => ({ "--brand": brand.value?.shown || "#1d5b66", "--on-brand": brand.value?.on || "#fff" }));
const tried = ref<Record<string, string[]>>({});
</script>

<template>
  <div class="paper" :style="looks" aria-label="The form as it will be">
    <div class="bar">
      <strong>{{ details?.name }}</strong><span v-if="brand?.line">{{ brand.line }}</span>
    </div>
    <div class="body">
      <h2>{{ design.title || name }}</h2>
      <p v-if="design.intro" class="intro">{{ design.intro }}</p>
      <FormQuestions v-model="tried" :design="design" />
      <p>
        <span class="send">{{ design.button }}</span>
      </p>
    </div>
  </div>
</template>

<style scoped>
.paper {
  border: 1px solid var(--rule);
  background: var(--paper);
  max-width: 24rem;
}
.bar {
  background: var(--brand);
  color: var(--on-brand);
  padding: 12px 18px;
  font-family: var(--serif);
}
.bar span {
  display: block;
  font-size: 13px;
}
.body {
  padding: 14px 18px 20px;
  font-family: var(--serif);
}
.intro {
  white-space: pre-line;
}
.send {
  display: inline-block;
  background: var(--brand);
  color: var(--on-brand);
  font: 600 14.5px var(--sans);
  padding: 7px 16px;
  border: 1px solid var(--ink);
  margin-top: 10px;
}
</style>
