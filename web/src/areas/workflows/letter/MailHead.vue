<script setup lang="ts">
/** The head of an email besides its subject, in a sentence, and the files that go with it. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import SentenceParts from "@/sentences/SentenceParts.vue";
import type { Values } from "@/sentences/written";
import { useRead } from "@/queries/account";
import { bytes } from "@/ui/words";
import { setAt, stepOf } from "../script/document";
import { useScript } from "../script/script";
import BringFile from "./BringFile.vue";
import { messageOf } from "./useLetter";

const props = defineProps<{ step: string; field: string }>();
const script = useScript();
type File = Schemas["AttachedFile"];
const { data: catalogue } = useRead("/catalogue", undefined, { staleTime: Infinity });
const head = computed(() => messageOf(script.doc.value, props.step, props.field)?.head as (Values & { files: File[] }) | undefined);
const sentence = computed(() => {
  const found = catalogue.value?.written_with.mail_head;
  return found && { ...found, parts: found.parts.filter((part) => part.sort !== "files") };
});
const open = computed(() => script.mayWrite.value);
const set = (name: string, value: unknown) =>
  script.change((doc) => setAt(stepOf(doc, props.step), `${props.field}.head.${name}`, value), `head-${props.step}-${props.field}-${name}`);
const size = computed(() => (head.value?.files ?? []).reduce((sum, one) => sum + one.size, 0));
function brought(made: File) {
  const there = head.value?.files ?? [];
  if (!there.some((one) => one.digest === made.digest)) set("files", [...there, made]);
}
</script>

<template>
  <div v-if="head && sentence" class="head">
    <p class="serif"><SentenceParts :sentence="sentence" :values="head" :offer="open" @change="set" /></p>
    <ul v-if="head.files.length" aria-label="Files that go with it">
      <li v-for="one in head.files" :key="one.digest">
        <a :href="`/api/accounts/${script.account.value}/files/${one.digest}`" download>{{ one.name }}</a>
        <span class="soft small">{{ bytes(one.size) }}</span>
        <BButton
          v-if="open"
          variant="link"
          class="small"
          :aria-label="`take off ${one.name}`"
          @click="
            set(
              'files',
              head.files.filter((other) => other !== one),
            )
          "
          >take off</BButton
        >
      </li>
    </ul>
    <p v-if="open" class="small">
      <BringFile
        to="/files"
        :words="head.files.length ? 'One more file' : 'Attach a file'"
        :full="head.files.length >= 5"
        @brought="brought" />
      <span v-if="head.files.length > 1" class="soft">{{ bytes(size) }} in all, of 5 MB</span>
    </p>
  </div>
</template>

<style scoped>
.head {
  margin: 4px 0 10px;
}
p {
  margin: 0 0 4px;
}
ul {
  list-style: none;
  margin: 0 0 4px;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}
</style>
