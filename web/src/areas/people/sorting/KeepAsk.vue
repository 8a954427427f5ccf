<script setup lang="ts">
/** A field, tag or list is made or changed: its name, what a new name means for what uses the old one, and what else there is
 * to say of it (the slot). */
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";

defineProps<{ what: "field" | "tag" | "list"; own?: { name: string }; uses: string[]; mayRename: boolean; pending: boolean }>();
const name = defineModel<string>("name", { required: true });
const emit = defineEmits<{ keep: []; close: [] }>();
</script>

<template>
  <Ask v-slot="{ close }" :title="own ? `The ${what} “${own.name}”` : `A new ${what}`" @close="emit('close')">
    <form class="form" @submit.prevent="emit('keep')">
      <FormRow v-if="mayRename" label="Name"><BFormInput v-model.trim="name" required maxlength="80" autofocus /></FormRow>
      <p v-if="own && name !== own.name" class="small soft">
        <template v-if="uses.length"
          >Used in {{ uses.join(", ") }}: these take the new name, too. It is refused while a workflow runs with the old one.</template
        ><template v-else>Used nowhere yet.</template>
      </p>
      <slot />
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Keep</BButton><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
