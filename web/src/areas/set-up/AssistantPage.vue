<script setup lang="ts">
/** What the booking assistant says, in sentences; and a conversation with it, of which nothing is kept. */
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import { useKeeping } from "@/shared/settings/useKeeping";
import WordPart from "@/shared/settings/WordPart.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { usePending } from "@/ui/usePending";
import KnownAnswers from "./parts/KnownAnswers.vue";
import OfWorkflows from "./parts/OfWorkflows.vue";
import TryAssistant from "./parts/TryAssistant.vue";

type Script = Schemas["AssistantScript"];
const account = useAccount();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const touched = useTouched();
const { data: assistant, ...read } = useRead("/set-up/assistant");
const answered = useAnswered("/set-up/assistant");
const { act } = usePending();
const change = useKeeping();
const script = computed(() => assistant.value?.script);
const put = (body: Script) =>
  ok(api.PUT("/api/accounts/{account}/set-up/assistant", { params: { path: { account: account.value } }, body }));
function keep(parts: Partial<Script>) {
  const before = assistant.value;
  if (!before) return;
  change({
    show: () => answered({ ...before, script: { ...before.script, ...parts } }),
    keep: () => act(async () => answered(await put({ ...before.script, ...parts }))),
    undo: async () => answered(await put(before.script)),
    after: () => touched("/set-up/changes"),
  });
}
const MOST_QUESTIONS = 3;
const questions = computed(() => script.value?.questions ?? []);
/** A question that is emptied goes; one more is written on the last line. */
function ask(at: number, words: string) {
  const said = words.trim();
  const next = questions.value.map((one, number) => (number === at ? said : one)).filter(Boolean);
  if (at === questions.value.length && said) next.push(said);
  keep({ questions: next });
}
const SAID = [
  ["opening", "Not understood at the beginning, it asks again:"],
  ["confirms", "To what it has booked, it adds"],
  ["declined", "To a no, it says"],
  ["put_off", "To who would rather come back to it, it says"],
  ["who", "Asked who this is, it says"],
  ["handed_over", "Before somebody of the team goes on, it says"],
] as const;
const count = (words: string, least: number, most: number) => Math.min(Math.max(Math.round(Number(words)) || least, least), most);
</script>

<template>
  <div class="page">
    <PageHead title="Booking assistant" about="what it says while it finds a time with somebody" />
    <ReadState :of="read" what="The booking assistant">
      <template v-if="assistant && script">
        <p v-if="assistant.workflows.length" class="soft">It talks with people of <OfWorkflows :of="assistant.workflows" />.</p>
        <p v-else class="soft">No workflow has it talk with anybody yet: a line of a workflow does, below the message that asks.</p>
        <SetHead title="Before it offers times" first />
        <SetLine v-for="at in Math.min(questions.length + (may ? 1 : 0), MOST_QUESTIONS)" :key="at">
          {{ at === 1 ? "It asks" : "Then it asks" }}
          <WordPart
            :value="questions[at - 1] ?? ''"
            :label="`Question ${at}`"
            long
            empty="nothing more"
            :most="300"
            :disabled="!may"
            @keep="ask(at - 1, $event)" />
          <template v-if="at === 1" #depends
            >Answered in any words; what they say of times is kept. Whoever goes on reads the answers.</template
          >
        </SetLine>
        <SetHead title="Times" />
        <SetLine>
          It offers
          <WordPart
            :value="script.at_once ?? 3"
            label="How many times at once"
            type="number"
            :least="1"
            :most="5"
            :disabled="!may"
            @keep="keep({ at_once: count($event, 1, 5) })" />
          times at once, and others up to
          <WordPart
            :value="script.offers ?? 3"
            label="How often it offers"
            type="number"
            :least="1"
            :most="6"
            :disabled="!may"
            @keep="keep({ offers: count($event, 1, 6) })" />
          times; then somebody goes on.
          <template #depends>Only times that are free, and only one that was offered, are ever booked.</template>
        </SetLine>
        <SetLine>
          It answers after
          <WordPart
            :value="script.pause ?? 30"
            label="Seconds before it answers"
            type="number"
            :least="0"
            :most="600"
            :disabled="!may"
            @keep="keep({ pause: count($event, 0, 600) })" />
          seconds.
          <template #depends>Until then, its answer stands under Replies, where somebody can change it or go on.</template>
        </SetLine>
        <SetHead title="What it says" />
        <SetLine v-for="[field, words] in SAID" :key="field">
          {{ words }}
          <WordPart
            :value="script[field] ?? ''"
            :label="words"
            long
            empty="nothing"
            :most="300"
            :disabled="!may"
            @keep="keep({ [field]: $event.trim() })" />
        </SetLine>
        <SetHead title="Questions that people ask" />
        <KnownAnswers :answers="script.answers ?? []" :may="may" @keep="keep({ answers: $event })" />
        <SetLine>
          It never answers what has
          <WordPart
            :value="(script.never ?? []).join(', ')"
            label="Words for a person"
            long
            empty="any words, so far,"
            :most="300"
            :disabled="!may"
            @keep="
              keep({
                never: $event
                  .split(',')
                  .map((one) => one.trim())
                  .filter(Boolean),
              })
            " />
          in it.
          <template #depends
            >By commas. Then somebody is told at once; as on anger, on a question without an answer, and after two answers that it did not
            understand.</template
          >
        </SetLine>
        <SetHead title="Try it" />
        <TryAssistant :script="script" />
      </template>
    </ReadState>
  </div>
</template>
