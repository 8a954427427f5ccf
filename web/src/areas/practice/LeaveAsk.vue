<script setup lang="ts">
/** A file of everything an account owns; and, for one that was put away, deleting it for good, once the file is taken and its name
 * typed. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { number } from "@/ui/words";
import AccountFile from "./AccountFile.vue";

const { of } = defineProps<{ of: Schemas["PracticeAccount"] }>();
const emit = defineEmits<{ close: []; changed: [] }>();
const typed = ref("");
const { pending, act } = usePending();
const isAway = computed(() => of.state === "put away");
async function remove() {
  const call = api.POST("/api/practice/accounts/{slug}/delete", { params: { path: { slug: of.slug } }, body: { name: typed.value } });
  if (!(await act(() => ok(call)))) return;
  tell(`${of.name} is being deleted.`);
  emit("changed");
  emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="isAway ? `Delete ${of.name} for good` : `Everything ${of.name} owns`" @close="emit('close')">
    <form @submit.prevent="remove">
      <template v-if="isAway">
        <p>
          Its {{ number(of.contacts) }} people, what was written to them and what they wrote, its workflows and all it is set to are gone
          then, from every page and for everybody. It cannot be taken back.
        </p>
        <h3>First, everything it owns as a file</h3>
      </template>
      <p>Every row, a line each (JSON Lines in gzip), with its pictures; without keys and passwords. It is kept here for a month.</p>
      <AccountFile :of="of" @changed="emit('changed')" />
      <template v-if="isAway">
        <h3>Then its name</h3>
        <FormRow :label="`Type “${of.name}”`" :help="of.delete_first"
          ><BFormInput v-model="typed" maxlength="200" autocomplete="off" :disabled="!!of.delete_first"
        /></FormRow>
      </template>
      <div class="actions">
        <BButton v-if="isAway" class="stop" type="submit" :disabled="pending || !!of.delete_first || typed.trim() !== of.name"
          >Delete it for good</BButton
        ><BButton variant="link" @click="close">{{ isAway ? "Not now" : "Done" }}</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
h3 {
  font-size: 16px;
  margin: 12px 0 4px;
}
.stop {
  color: var(--paper);
  background: var(--rust);
  border-color: var(--rust);
}
</style>
