<script setup lang="ts">
/** A sentence of the catalogue with its parts to be edited in place: of a line, a trigger, a test, a lane. With `offer`,
 * the parts that the sentence does not say yet stand behind it, to be said. */
import { computed, nextTick, ref, useId } from "vue";

import PartInPlace from "./PartInPlace.vue";
import { useAround } from "./around";
import { namesOf, pieces, unsaid, type Part, type Sentence, type Values } from "./written";

const props = defineProps<{
  sentence: Sentence;
  values: Values;
  stands?: Record<string, string>;
  within?: string;
  small?: boolean;
  offer?: boolean;
}>();
const id = useId();
const emit = defineEmits<{ change: [field: string, value: unknown] }>();
const around = useAround();
const found = computed(() => {
  const cut = pieces(props.sentence, props.values, around.book.value, props.stands);
  const first = cut[0];
  return props.small && typeof first === "string" ? [first.charAt(0).toLowerCase() + first.slice(1), ...cut.slice(1)] : cut;
});
const offered = computed(() =>
  props.offer && around.open.value ? unsaid(props.sentence, props.values, around.book.value, props.stands) : [],
);
/** The part that is being said for the first time. */
const saying = ref<Part>();
const first = ref<InstanceType<typeof PartInPlace>[]>([]); // one, but it stands in a loop
async function say(part: Part) {
  saying.value = part;
  await nextTick();
  first.value[0]?.edit();
}
async function change(field: string, value: unknown) {
  const wasOffered = saying.value?.field === field;
  saying.value = undefined;
  emit("change", field, value);
  if (!wasOffered) return;
  await nextTick();
  document.querySelector<HTMLElement>(`[data-of="${id}"][data-part="${field}"]`)?.focus();
}
</script>

<template>
  <template v-for="(piece, index) in found" :key="typeof piece === 'string' ? index : piece.field"
    ><template v-if="typeof piece === 'string'">{{ piece }}</template
    ><PartInPlace
      v-else
      :data-of="id"
      :part="piece"
      :value="values[piece.field]"
      :names="namesOf(piece, values)"
      :stands="stands"
      :within="within"
      @change="change(piece.field, $event)" /></template
  ><template v-for="part in offered" :key="`offer-${part.field}`"
    ><template v-if="saying?.field === part.field"
      >{{ " "
      }}<PartInPlace
        ref="first"
        :part="part"
        :value="values[part.field]"
        :names="namesOf(part, values)"
        :stands="stands"
        @change="change(part.field, $event)" /></template
    ><button v-else type="button" class="link offer" @click.stop="say(part)">+ {{ part.label }}</button></template
  >
</template>

<style scoped>
.offer {
  font: 12.5px var(--sans);
  color: var(--soft);
  text-decoration: none;
  margin-left: 6px;
  white-space: nowrap;
}
.offer:hover {
  color: var(--sea);
}
</style>
