<script setup lang="ts">
/** The message of a line: its words with merge fields, its other wordings, how a contact reads it, a test to oneself. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import LetterInNotes from "../letter/LetterInNotes.vue";
import MailHead from "../letter/MailHead.vue";
import { fromWords, type Letter } from "../letter/useLetter";
import { MergeText } from "./mergeText";
import MessageReader from "./MessageReader.vue";
import OtherWordings, { type Other } from "./OtherWordings.vue";
import { setAt, stepOf, type Kind, type Step } from "./document";
import { useScript } from "./script";
import { plain, type Part, type Values } from "@/sentences/written";
import StateMark from "@/ui/StateMark.vue";
import { valueOf } from "@/ui/events";

interface Message {
  name: string;
  body: string;
  subject?: string;
  title?: string;
  letter?: Letter | null;
  others: Other[];
  head?: Values;
}
/** `named`: of the library, where it has its name elsewhere. */
const props = defineProps<{ step: Step; part: Part; kind: Kind; fields: Schemas["MergeFieldOut"][]; named?: boolean }>();
const emit = defineEmits<{ find: []; next: [] }>();
const script = useScript();
const route = useRoute();
const router = useRouter();
const reader = ref<number>();
const wide = ref(false);
const sent = ref("");

const values = computed(() => props.step as unknown as Values);
const message = computed(() => values.value[props.part.field] as Message | null);
const isReach = computed(() => props.kind.parts.filter((part) => part.sort === "message").length > 1);
const channel = computed(
  () =>
    (isReach.value ? props.part.field : props.step.kind === "print_letter" ? "letter" : props.step.kind) as Schemas["TestIn"]["channel"],
);
const heading = computed<"subject" | "title" | undefined>(() =>
  message.value?.subject !== undefined ? "subject" : message.value?.title !== undefined ? "title" : undefined,
);
/** What else a message of this channel holds besides its heading and its words: the address that a notice leads to. */
const CALLED: Record<string, string> = { link: "Leads to" };
const lines = computed(
  () =>
    Object.entries(message.value ?? {}).filter(
      ([name]) => !["name", "body", "others", "letter", "head", "share", "by_share", heading.value].includes(name),
    ) as [string, string][],
);
const called = (name: string) => CALLED[name] ?? name.charAt(0).toUpperCase() + name.slice(1).replaceAll("_", " ");
const alternates = computed(() => props.kind.who === "account");
const open = computed(() => script.mayWrite.value);
const others = computed(() => message.value?.others ?? []);

function set(changes: Record<string, unknown>, key = true) {
  const { id } = props.step;
  const field = props.part.field;
  const path = Object.keys(changes)[0] ?? "";
  script.change((doc) => setAt(stepOf(doc, id), `${field}.${path}`, changes[path]), key ? `${field}-${id}-${path}` : "");
}
function give(version: unknown) {
  const { id } = props.step;
  script.change((doc) => setAt(stepOf(doc, id), props.part.field, version));
}

const letter = () => (message.value?.letter ?? undefined) as unknown as Schemas["PreviewIn"]["letter"];
function inLines() {
  set({ letter: fromWords(message.value?.body ?? "") }, false);
  void router.push({ query: { ...route.query, letter: `${props.step.id}.${props.part.field}` } });
}
watch(
  () => props.step.id,
  () => (sent.value = ""),
);
const { pending, act } = usePending();

const { data: preview } = useQuery({
  queryKey: [
    "preview",
    script.account,
    reader,
    channel,
    () => message.value?.body,
    () => message.value?.letter,
    () => message.value?.head,
    () => heading.value && message.value?.[heading.value],
  ],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/preview", {
        params: { path: { account: script.account.value } },
        body: {
          channel: channel.value,
          body: message.value?.body ?? "",
          subject: (heading.value && message.value?.[heading.value]) ?? "",
          contact_id: reader.value,
          letter: letter(),
          head: message.value?.head as Schemas["PreviewIn"]["head"],
          name: message.value?.name ?? "",
          reader: "",
        },
      }),
    ),
  enabled: () => !!message.value,
  placeholderData: (before) => before,
});
async function toMe() {
  sent.value = "";
  await act(async () => {
    const { to } = await ok(
      api.POST("/api/accounts/{account}/test-message", {
        params: { path: { account: script.account.value } },
        body: {
          channel: channel.value,
          body: message.value?.body ?? "",
          subject: (heading.value && message.value?.[heading.value]) ?? "",
          sender: "sender" in props.step ? props.step.sender : "",
          contact_id: reader.value,
          letter: letter(),
          head: message.value?.head as Schemas["TestIn"]["head"],
          name: message.value?.name ?? "",
        },
      }),
    );
    sent.value = `Sent to ${to}, marked as a test.`;
  });
}
</script>

<template>
  <div v-if="!message" class="version" :data-field="part.field">
    <BButton v-if="open" variant="link" @click="give(plain(part.message))">Write the {{ part.label }}</BButton>
  </div>
  <div v-else class="message" :data-field="part.field">
    <label v-if="!isReach && !named" class="name"
      ><span>{{ kind.label }}, as the team calls it</span
      ><input :value="message.name" maxlength="120" :disabled="!open" placeholder="Checking in" @input="set({ name: valueOf($event) })"
    /></label>
    <h3 v-else-if="isReach">
      {{ part.label.charAt(0).toUpperCase() + part.label.slice(1) }}
      <BButton v-if="open" variant="link" class="small" @click="give(null)">leave it out</BButton>
    </h3>
    <div v-if="heading" class="field">
      <span class="soft small">{{ heading === "subject" ? "Subject" : "Title" }}</span><MergeText
        :of="`${step.id}-${part.field}-heading`"
        :model-value="message[heading] ?? ''"
        :label="heading === 'subject' ? 'Subject' : 'Title'"
        :fields="fields"
        single
        :disabled="!open"
        @update:model-value="set({ [heading as string]: $event })" />
    </div>
    <LetterInNotes
      v-if="message.letter"
      :step="step.id"
      :field="part.field"
      :letter="message.letter"
      :open="open"
      @plain="set({ letter: null }, false)" />
    <MergeText
      v-else
      :of="`${step.id}-${part.field}`"
      :model-value="message.body"
      :label="`Words of the ${isReach ? part.label : kind.label.toLowerCase()}`"
      :fields="fields"
      :disabled="!open"
      @update:model-value="set({ body: $event })">
      <span v-if="preview && channel === 'text'" :class="{ gorse: preview.parts > 1 }"
        >{{ preview.parts > 1 ? `▲ ${preview.parts} parts` : "1 part" }}, {{ preview.used }} of {{ preview.room
        }}{{ preview.below ? ", the link counted" : ""
        }}{{ preview.alphabet === "UCS-2" ? ", short parts: a letter is not in the texting alphabet" : "" }}</span
      >
    </MergeText>
    <label v-for="[name, text] in lines" :key="name" class="field link-field"
      ><span>{{ called(name) }}</span
      ><input :value="text" :disabled="!open" placeholder="https://" @change="set({ [name]: valueOf($event) })"
    /></label>
    <OtherWordings
      :step="step"
      :field="part.field"
      :channel="channel"
      :message="message"
      :heading="heading ?? ''"
      :fields="fields"
      :open="open" />
    <MailHead v-if="message.head" :step="step.id" :field="part.field" />
    <MessageReader v-model="reader" :preview="preview" :phone="channel === 'text'" @wide="wide = true" />
    <p class="links small">
      <BButton variant="link" data-act="test" :disabled="pending" @click="toMe">Send it to me</BButton>
      <template v-if="open"
        ><BButton v-if="message.letter === null" variant="link" @click="inLines">Write it as a letter, in lines</BButton
        ><BButton
          v-if="alternates"
          variant="link"
          data-act="wording"
          @click="
            set(
              { others: [...others, { heading: '', body: '', share: 1, ...(message.letter === undefined ? {} : { letter: null }) }] },
              false,
            )
          "
          >{{ others.length ? `${many(others.length, "other wording")}, one more` : "Other wording" }}</BButton
        >
        <BButton v-if="!isReach && !named" variant="link" data-act="next" @click="emit('next')">Make the next one from this</BButton>
        <BButton variant="link" @click="emit('find')">Find and replace</BButton></template
      >
    </p>
    <p v-if="sent" class="kelp small" role="status"><StateMark is="done" /> {{ sent }}</p>
    <Ask v-if="wide" v-slot="{ close }" :title="message.name || kind.label" wide @close="wide = false">
      <p class="soft">as {{ preview?.contact }} would read it</p>
      <div class="sheet">
        <strong v-if="preview?.subject">{{ preview.subject }}</strong>
        <p>{{ preview?.body }}</p>
        <p v-if="preview?.below" class="soft below">{{ preview.below }}</p>
      </div>
      <div class="actions"><BButton variant="outline-primary" @click="close">Back</BButton></div>
    </Ask>
  </div>
</template>

<style scoped>
.name {
  width: 100%;
  margin-bottom: 12px;
}
.name input {
  width: 100%;
  font: 600 18px var(--serif);
  border-color: transparent;
  padding: 2px 0;
  background: transparent;
}
.name input:hover,
.name input:focus {
  border-bottom-color: var(--sea);
}
.field {
  margin-bottom: 12px;
}
.link-field,
.link-field input {
  width: 100%;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-top: 10px;
}
.sheet {
  border: 1px solid var(--rule);
  background: #fff;
  padding: 24px 32px;
  font: 16px/1.55 var(--serif);
}
.sheet p {
  white-space: pre-line;
  margin: 10px 0 0;
}
h3 {
  margin: 14px 0 6px;
}
</style>
