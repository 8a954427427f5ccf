<script setup lang="ts">
/** Why deals are lost: one of the reasons the account has, or another. */
import { ref } from "vue";

import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";

const props = defineProps<{ whom: string; reasons: string[] }>();
const emit = defineEmits<{ close: []; lost: [why: string] }>();
const why = ref("");
const other = ref("");
const say = () => emit("lost", why.value === "other" || !props.reasons.length ? other.value : why.value);
</script>

<template>
  <Ask v-slot="{ close }" :title="`${whom}: lost, why?`" @close="$emit('close')">
    <form class="why" @submit.prevent="say">
      <BFormRadioGroup v-if="reasons.length" v-model="why" name="why" stacked>
        <BFormRadio v-for="one in reasons" :key="one" :value="one">{{ one }}</BFormRadio>
        <BFormRadio value="other">something else</BFormRadio>
      </BFormRadioGroup>
      <FormRow v-if="why === 'other' || !reasons.length" label="Why"><BFormInput v-model.trim="other" maxlength="80" /></FormRow>
      <div class="row">
        <BButton variant="primary" type="submit" :disabled="reasons.length > 0 && !why">Close it as lost</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.why {
  display: grid;
  gap: 12px;
}
</style>
