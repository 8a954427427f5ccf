<script setup lang="ts">
/** Sentences anywhere: what stands inside can be drawn and edited as in a script, whose names and words it brings along. */
import { computed, provide, ref, shallowRef, watch } from "vue";

import { useRead } from "@/queries/account";
import { AROUND } from "./around";
import type { Book } from "./written";

const props = defineProps<{ open: boolean }>();
const { data: catalogue } = useRead("/catalogue", undefined, { staleTime: Infinity });
const { data: names } = useRead("/names");
const ownFields = computed(() => names.value?.own_fields ?? {});
const book = shallowRef<Book>({
  tests: new Map(),
  triggers: new Map(),
  fieldName: (field) => ownFields.value[field] ?? field,
  lineName: (line) => line,
});
watch(
  catalogue,
  (found) => {
    if (!found) return;
    const { tests, triggers } = found.written_with;
    book.value = {
      ...book.value,
      tests: new Map(tests.map((one) => [one.kind, one])),
      triggers: new Map(triggers.map((one) => [one.kind, one])),
    } as Book;
  },
  { immediate: true },
);
const nothing = () => undefined;
provide(AROUND, {
  book,
  events: computed(() => catalogue.value?.written_with.events ?? []),
  names: computed(() => names.value?.names ?? {}),
  namesRead: () => Promise.resolve(),
  ownFields,
  tasks: ref([]),
  fields: ref(new Map()),
  open: computed(() => props.open),
  select: nothing,
  toNotes: nothing,
});
</script>

<template>
  <slot v-if="catalogue && names" />
</template>
