<script setup lang="ts">
/** The two parts of a rule that say on which channels and for what it holds. */
import { computed } from "vue";

import { useAccountDetails } from "@/queries/session";
import { channelChoices, PURPOSES, someOf } from "../reach";
import SomePart from "./SomePart.vue";

const props = defineProps<{ channels?: readonly string[]; purposes?: readonly string[]; name: string; disabled?: boolean }>();
const emit = defineEmits<{ channels: [value: string[]]; purposes: [value: string[]] }>();
const { data: details } = useAccountDetails();
const choices = computed(() => channelChoices(details.value?.channels));
</script>

<template>
  <SomePart
    :value="props.channels ?? choices.map((one) => one.value)"
    :label="`Channels of ${name}`"
    :words="someOf(props.channels, choices, 'any channel')"
    :choices="choices"
    :disabled="disabled"
    @keep="emit('channels', $event)" />,
  <SomePart
    :value="props.purposes ?? PURPOSES.map((one) => one.value)"
    :label="`Purposes of ${name}`"
    :words="someOf(props.purposes, PURPOSES, 'any purpose')"
    :choices="PURPOSES"
    :disabled="disabled"
    @keep="emit('purposes', $event)" />
</template>
