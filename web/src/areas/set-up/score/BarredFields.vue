<script setup lang="ts">
/** Fields that no rule may go by: who somebody is by these is not to count. */
import { computed } from "vue";

import { useAround } from "@/sentences/around";
import WordPart from "@/shared/settings/WordPart.vue";

const props = defineProps<{ barred: string[]; may: boolean }>();
const emit = defineEmits<{ barred: [names: string[]] }>();
const { names, ownFields } = useAround();
const all = computed(() => [
  ...Object.entries(ownFields.value).map(([value, words]) => ({ value, words })),
  ...(names.value.field ?? []).map(({ name }) => ({ value: name, words: `“${name}”` })),
]);
const called = (name: string) => all.value.find((one) => one.value === name)?.words ?? name;
const more = computed(() => [{ value: "", words: "one more…" }, ...all.value.filter((one) => !props.barred.includes(one.value))]);
</script>

<template>
  <p v-if="may || barred.length" class="barred">
    Never goes by
    <template v-for="(one, n) in barred" :key="one"
      ><template v-if="n">, </template><i>{{ called(one) }}</i
      ><BButton
        v-if="may"
        variant="link"
        class="off"
        :aria-label="`May go by ${called(one)} again`"
        @click="
          emit(
            'barred',
            barred.filter((each) => each !== one),
          )
        "
        >✕</BButton
      ></template
    ><template v-if="barred.length && may">, </template
    ><WordPart
      v-if="may"
      :key="barred.length"
      value=""
      label="A field that the score may not go by"
      :choices="barred.length ? more : [{ value: '', words: 'nothing yet…' }, ...more.slice(1)]"
      @keep="$event && emit('barred', [...barred, $event])" />.
  </p>
</template>

<style scoped>
.barred {
  margin: 12px 0 0 76px;
  font: 15.5px/1.5 var(--serif);
}
.off {
  text-decoration: none;
  font-size: 12px;
  padding: 0 2px;
}
</style>
