<script setup lang="ts">
/** Some of what there is to choose from, each pressed in or out; `ordered`: in the order in which they were pressed. */
const props = defineProps<{ choices: { value: string; words: string; spoken?: string }[]; ordered?: boolean; needed?: boolean }>();
const chosen = defineModel<string[]>({ required: true });

function toggle(value: string) {
  const now = chosen.value ?? [];
  if (props.ordered) chosen.value = now.includes(value) ? now.filter((one) => one !== value) : [...now, value];
  else {
    const next = props.choices.map((one) => one.value).filter((one) => (one === value) !== now.includes(one));
    if (next.length || !props.needed) chosen.value = next;
  }
}
</script>

<template>
  <button
    v-for="one in choices"
    :key="one.value"
    type="button"
    class="day"
    :aria-pressed="chosen.includes(one.value)"
    :aria-label="one.spoken"
    @click="toggle(one.value)">
    {{ ordered && chosen.includes(one.value) ? `${chosen.indexOf(one.value) + 1}. ` : "" }}{{ one.words }}
  </button>
</template>
