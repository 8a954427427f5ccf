<script setup lang="ts">
/** What the booking assistant answers to questions: about a topic, or where words of one's own stand in them. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Answer = Schemas["KnownAnswer"];
const props = defineProps<{ answers: Answer[]; may: boolean }>();
const emit = defineEmits<{ keep: [answers: Answer[]] }>();
const TOPICS = [
  { value: "", words: "words of your own" },
  { value: "price", words: "what it costs" },
  { value: "where", words: "where it is" },
  { value: "long", words: "how long it takes" },
  { value: "with", words: "who it is with" },
  { value: "bring", words: "what to bring" },
  { value: "level", words: "whether they are able to" },
];
const free = computed(() => TOPICS.filter((one) => one.value && !props.answers.some((known) => known.about === one.value)));
const words = (one: Answer) => (one.words ?? []).join(", ");
function set(at: number, parts: Partial<Answer>) {
  emit(
    "keep",
    props.answers.map((one, number) => (number === at ? { ...one, ...parts } : one)),
  );
}
const drop = (at: number) =>
  emit(
    "keep",
    props.answers.filter((_, number) => number !== at),
  );
const add = () => emit("keep", [...props.answers, { about: (free.value[0]?.value || null) as Answer["about"], words: [], says: "" }]);
</script>

<template>
  <SetLine v-for="(one, at) in answers" :key="at">
    Asked about
    <WordPart
      :value="one.about ?? ''"
      :label="`What answer ${at + 1} is about`"
      :choices="TOPICS"
      :disabled="!may"
      @keep="set(at, { about: ($event || null) as Answer['about'], words: [] })" /><template v-if="!one.about"
      >,
      <WordPart
        :value="words(one)"
        :label="`Words of question ${at + 1}`"
        empty="which ones?"
        :most="200"
        :disabled="!may"
        @keep="
          set(at, {
            words: $event
              .split(',')
              .map((word) => word.trim())
              .filter(Boolean),
          })
        " />,</template
    >
    it says
    <WordPart
      :value="one.says"
      :label="`Answer ${at + 1}`"
      long
      empty="nothing yet"
      :most="300"
      :disabled="!may"
      @keep="set(at, { says: $event.trim() })" />
    <BButton v-if="may" variant="link" class="small" :aria-label="`Take away answer ${at + 1}`" @click="drop(at)">Take away</BButton>
  </SetLine>
  <p v-if="may && answers.length < 40"><BButton variant="link" @click="add">Another answer</BButton></p>
</template>
