<script setup lang="ts">
/** What a line says from the library: its words, the way to where they are written, and making them the line's own. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import { several } from "@/ui/words";
import { setAt, stepOf, type Kind, type Step } from "../script/document";
import { useScript } from "../script/script";
import { readable } from "../script/wordings";

const props = defineProps<{ step: Step; kind: Kind }>();
const script = useScript();
const values = computed(() => props.step as unknown as Record<string, unknown>);
const name = computed(() => String(values.value.library));
const { data: sayable } = useRead("/messages/sayable");
const id = computed(() => sayable.value?.find((one) => one.name === name.value)?.id);
const { data: message } = useRead("/messages/{message_id}", () => ({ path: { message_id: id.value ?? 0 } }), {
  enabled: () => id.value !== undefined,
  live: true,
});
const others = computed(() => message.value?.said_by.filter((one) => one.name !== script.doc.value.name).map((one) => one.name) ?? []);
const says = computed(() =>
  props.kind.parts
    .filter((part) => part.sort === "message" && values.value[part.field])
    .map((part) => ({ part, words: values.value[part.field] as { subject?: string; title?: string; body: string; others: unknown[] } })),
);
const isReach = computed(() => says.value.length > 1);
const makeOwn = () => script.change((doc) => setAt(stepOf(doc, props.step.id), "library", ""));
</script>

<template>
  <div data-field="library">
    <h2>{{ name }}</h2>
    <p class="soft small">
      Of the library<template v-if="others.length">; {{ several(others) }} {{ others.length === 1 ? "says" : "say" }} it, too</template>.
    </p>
    <section v-for="one in says" :key="one.part.field" class="said serif">
      <h3 v-if="isReach">{{ one.part.label }}</h3>
      <p v-if="one.words.subject || one.words.title">
        <b>{{ readable(one.words.subject ?? one.words.title ?? "") }}</b>
      </p>
      <p class="body">{{ readable(one.words.body) }}</p>
      <p v-if="one.words.others.length" class="soft small">and {{ one.words.others.length }} more in turn</p>
    </section>
    <p v-if="script.mayWrite.value" class="acts">
      <RouterLink v-if="id" class="btn btn-outline-primary" :to="{ name: 'message', params: { message: id } }"
        >Open it in the library</RouterLink
      >
      <BButton variant="link" @click="makeOwn">Make it this line’s own</BButton>
    </p>
  </div>
</template>

<style scoped>
.said {
  border-left: 2px solid var(--rule);
  padding-left: 12px;
  margin: 8px 0;
}
.said p {
  margin: 0 0 6px;
}
.body {
  white-space: pre-line;
  max-height: 16em;
  overflow: auto;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
</style>
