<script setup lang="ts">
/** A file of people is chosen, dropped, or its rows are pasted; what it says is read at once. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";

const emit = defineEmits<{ read: [imported: Schemas["ImportOut"]] }>();
const account = useAccount();
const { data: details } = useAccountDetails();
const path = computed(() => ({ account: account.value }));
const { pending, act } = usePending();
const pasting = ref(false);
const pasted = ref("");
async function read(files: FileList | null | undefined) {
  const file = files?.[0];
  if (!file) return;
  const body = new FormData();
  body.append("file", file);
  await act(async () =>
    emit(
      "read",
      await ok(
        api.POST("/api/accounts/{account}/imports", {
          params: { path: path.value },
          body: body as unknown as { file: string },
          bodySerializer: (one) => one as unknown as FormData,
        }),
      ),
    ),
  );
}
async function paste() {
  const done = await act(async () =>
    emit(
      "read",
      await ok(api.POST("/api/accounts/{account}/imports/pasted", { params: { path: path.value }, body: { text: pasted.value } })),
    ),
  );
  if (done) pasting.value = false;
}
function chosen(event: Event) {
  if (event.target instanceof HTMLInputElement) void read(event.target.files);
}
</script>

<template>
  <p class="lead">
    CSV, a workbook (XLSX), vCards, or rows pasted. Phone numbers and emails are put in order; a row that cannot be taken is listed with its
    reason, and holds nobody else up.
  </p>
  <label class="drop" @dragover.prevent @drop.prevent="read($event.dataTransfer?.files)">
    <span class="serif">Choose a file, or drop it here</span>
    <input type="file" accept=".csv,.tsv,.txt,.xlsx,.vcf,text/csv,text/vcard" :disabled="pending" @change="chosen" />
  </label>
  <p><BButton variant="link" @click="pasting = !pasting">Or paste rows</BButton></p>
  <form v-if="pasting" @submit.prevent="paste">
    <BFormTextarea
      v-model="pasted"
      rows="6"
      aria-label="Rows, with or without headings"
      :placeholder="`Name\tEmail\tMobile\nAna Reyes\tana@example.com\t${details?.example_number}`" />
    <p class="actions"><BButton variant="primary" type="submit" :disabled="pending || !pasted.trim()">Read the rows</BButton></p>
  </form>
</template>

<style scoped>
.drop {
  display: block;
  border: 1px dashed var(--soft);
  padding: 22px;
  margin: 10px 0;
  max-width: 46rem;
  cursor: pointer;
}
.drop .serif {
  font-size: 17px;
  display: block;
  margin-bottom: 8px;
  color: var(--ink);
}
</style>
