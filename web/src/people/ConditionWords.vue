<script setup lang="ts">
/** A condition about people, edited in words anywhere: it brings along what the sentences of a script need to know. */
import { useQuery } from "@tanstack/vue-query";
import { computed, provide, ref, shallowRef, watch } from "vue";

import { api, ok } from "@/api/client";
import { useAccount } from "@/practice/session";
import ConditionEdit from "@/workflows/ConditionEdit.vue";
import { SCRIPT, type Look, type Script } from "@/workflows/script";
import type { Book, Condition } from "@/workflows/written";

const model = defineModel<Condition>({ required: true });
const account = useAccount();
const { data: catalogue } = useQuery({
  queryKey: ["catalogue", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/catalogue", { params: { path: { account: account.value } } })),
  staleTime: Infinity,
});
const { data: names } = useQuery({
  queryKey: ["names", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/names", { params: { path: { account: account.value } } })),
});
const ownFields = computed(() => names.value?.own_fields ?? {});
const book = shallowRef<Book>({ tests: new Map(), triggers: new Map(), fieldName: (field) => ownFields.value[field] ?? field, lineName: (line) => line });
watch(
  catalogue,
  (found) => {
    if (found) book.value = { ...book.value, tests: new Map(found.written_with.tests.map((test) => [test.kind, test])) } as Book;
  },
  { immediate: true },
);
const nothing = () => undefined;
// Conditions use this much of a script and no more.
provide(SCRIPT, {
  account,
  book,
  events: computed(() => catalogue.value?.written_with.events ?? []),
  names: computed(() => names.value?.names ?? {}),
  namesRead: () => Promise.resolve(),
  ownFields,
  tasks: ref([]),
  fields: ref(new Map()),
  look: computed<Look>(() => "write"),
  mayWrite: computed(() => true),
  select: nothing,
  toNotes: nothing,
} as unknown as Script);
</script>

<template>
  <ConditionEdit v-if="catalogue && names" :condition="model" @change="$event && (model = $event)" />
</template>
