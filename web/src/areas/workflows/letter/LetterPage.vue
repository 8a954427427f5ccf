<script setup lang="ts">
/** A letter: an email in lines, written as a script is; beside it what the chosen line needs, and the mail as somebody reads it. */
import { useQuery } from "@tanstack/vue-query";
import { watchDebounced } from "@vueuse/core";
import { computed, ref, shallowRef, toRef, watch } from "vue";
import { useRoute } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import PageHead from "@/ui/PageHead.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { plain, type Values } from "@/sentences/written";
import LackingFields from "../script/LackingFields.vue";
import { MergeText } from "../script/mergeText";
import { setAt, stepOf } from "../script/document";
import DraftClash from "../script/DraftClash.vue";
import { useScript } from "../script/script";
import { useKept } from "../script/useKept";
import { useUndoKeys } from "../script/useUndoKeys";
import type { useDraft } from "../script/useDraft";
import MailHead from "./MailHead.vue";
import LetterNotes from "./LetterNotes.vue";
import LetterReader from "./LetterReader.vue";
import LetterRun from "./LetterRun.vue";
import { messageOf, provideLetter, type LetterKind } from "./useLetter";

const props = defineProps<{
  step: string;
  field: string;
  kinds: LetterKind[];
  fields: Schemas["MergeFieldOut"][];
  draft: ReturnType<typeof useDraft>;
  back?: string;
}>();
const emit = defineEmits<{ close: [] }>();
const script = useScript();
const route = useRoute();
const workflow = computed(() => Number(route.params.workflow ?? route.params.message));
const writing = provideLetter(props.step, props.field, props.kinds, toRef(props, "fields"));
const { letter } = writing;
const message = computed(() => messageOf(script.doc.value, props.step, props.field));
/** What is its subject: an empty one of another wording is that of the first. */
const heading = computed(() => (message.value && "subject" in message.value ? "subject" : "heading"));
const whole = computed(() => messageOf(script.doc.value, props.step, props.field.split(".")[0] ?? ""));
const subject = computed(() => String(message.value?.[heading.value] || whole.value?.subject || ""));
const set = (path: string, value: unknown) =>
  script.change((doc) => setAt(stepOf(doc, props.step), `${props.field}.${path}`, value), `letter-${props.step}-${props.field}-${path}`);
const reader = ref<number>();
const odd = ref<"" | "longest" | "nothing">("");
watch(reader, () => (odd.value = ""));
/** What is being read: as it was when a hand last rested, so that no key waits for a mail that is laid out anew. Known by its turn, not by its words. */
const read = shallowRef({ turn: 0, subject: subject.value, letter: plain(letter.value) });
watchDebounced([subject, letter], () => (read.value = { turn: read.value.turn + 1, subject: subject.value, letter: plain(letter.value) }), {
  debounce: 600,
});
const asSent = () => read.value.letter as unknown as Schemas["PreviewIn"]["letter"];
const head = () => ({ head: whole.value?.head as Schemas["PreviewIn"]["head"], name: String(whole.value?.name ?? "") });
const { data: preview } = useQuery({
  queryKey: ["preview", script.account, reader, odd, "letter", () => read.value.turn, () => whole.value?.head],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/preview", {
        params: { path: { account: script.account.value } },
        body: {
          channel: "email",
          body: "",
          subject: read.value.subject,
          contact_id: reader.value,
          letter: asSent(),
          reader: odd.value,
          ...head(),
        },
      }),
    ),
  enabled: () => !!read.value.letter,
  placeholderData: (before) => before,
  structuralSharing: false,
  gcTime: 0,
});
const size = computed(() => Math.ceil(new TextEncoder().encode(preview.value?.html).length / 1024));
const CLIPPED = 102; // kB: common practice, some programs cut a longer mail
const { pending, act } = usePending();
async function toMe() {
  const sender = (stepOf(script.doc.value, props.step) as unknown as Values | undefined)?.sender;
  const body = { channel: "email" as const, body: "", subject: subject.value, contact_id: reader.value, sender: String(sender ?? "") };
  await act(async () => {
    const { to } = await ok(
      api.POST("/api/accounts/{account}/test-message", {
        params: { path: { account: script.account.value } },
        body: { ...body, ...head(), letter: plain(letter.value) as unknown as Schemas["TestIn"]["letter"] },
      }),
    );
    tell(`Sent to ${to}, marked as a test.`);
  });
}
useUndoKeys(props.draft, () => script.mayWrite.value);
const kept = useKept(props.draft);
</script>

<template>
  <div class="letter-page">
    <section class="write">
      <PageHead :title="String(whole?.name || 'A letter')" :about="kept">
        <BButton variant="link" :disabled="pending" @click="toMe">Send it to me</BButton>
        <BButton variant="link" @click="emit('close')">{{ back ?? "Back to the script" }}</BButton>
      </PageHead>
      <DraftClash :draft="draft" />
      <template v-if="letter">
        <p class="sum soft small">
          {{ many(letter.lines.length, "line")
          }}<template v-if="preview?.html">
            · <span :class="{ gorse: size > CLIPPED }">{{ size }} of {{ CLIPPED }} kB</span></template
          >
        </p>
        <MailHead :step="step" :field="field.split('.')[0] ?? ''" />
        <div class="top">
          <span class="soft small">subject</span>
          <MergeText
            :of="`${step}-${field}-subject`"
            :model-value="subject"
            label="Subject"
            :fields="fields"
            single
            :disabled="!script.mayWrite.value"
            @update:model-value="set(heading, $event)" />
          <span class="soft small">preview</span>
          <MergeText
            :of="`${step}-${field}-preview`"
            :model-value="letter.preview"
            label="What a list of mails shows behind the subject"
            :fields="fields"
            single
            :disabled="!script.mayWrite.value"
            @update:model-value="writing.setPreview($event)" />
        </div>
        <LetterRun :lines="letter.lines" :run="undefined" />
      </template>
      <p v-else class="soft">This message is not written in lines any more.</p>
    </section>
    <LetterNotes :faults="preview?.faults ?? []">
      <LackingFields v-if="workflow" :workflow="workflow" :step="step" />
    </LetterNotes>
    <LetterReader v-model:reader="reader" v-model:odd="odd" :preview="preview" />
  </div>
</template>

<style scoped>
.letter-page {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px 392px;
  gap: 24px;
  padding: 18px 28px;
}
.letter-page > :not(.write) {
  position: sticky;
  top: 12px;
  align-self: start;
  max-height: calc(100vh - 24px);
  overflow-y: auto;
}
.sum {
  text-align: right;
  margin: 0 0 4px;
}
.top {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  column-gap: 14px;
  align-items: baseline;
  border-bottom: 1px solid var(--ink);
  margin-bottom: 8px;
}
.top > span {
  text-align: right;
}
.top :deep(.box.single .writing) {
  border: 0;
  padding: 4px 0;
}
.top :deep(.box:not(:focus-within) .foot) {
  display: none;
}
@media (max-width: 1180px) {
  .letter-page {
    grid-template-columns: minmax(0, 1fr) 392px;
  }
  .letter-page > :nth-child(2) {
    grid-row: 2;
    position: static;
  }
}
@media (max-width: 860px) {
  .letter-page {
    display: block;
    padding: 12px;
  }
  .letter-page > :not(.write) {
    position: static;
    max-height: none;
  }
}
</style>
