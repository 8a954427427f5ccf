<script setup lang="ts">
/** A condition about people, edited in words anywhere: it brings along what the sentences of a script need to know. */
import { computed, provide, ref, shallowRef, watch } from "vue";

import { useRead } from "@/queries/account";
import { AROUND } from "./around";
import ConditionEdit from "./ConditionEdit.vue";
import type { Book, Condition } from "./written";

const model = defineModel<Condition>({ required: true });
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
    if (found) book.value = { ...book.value, tests: new Map(found.written_with.tests.map((test) => [test.kind, test])) } as Book;
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
  open: ref(true),
  select: nothing,
  toNotes: nothing,
});
</script>

<template>
  <ConditionEdit v-if="catalogue && names" :condition="model" @change="$event && (model = $event)" />
</template>
