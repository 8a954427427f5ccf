<script setup lang="ts">
/** One type of appointment in sentences: how long, with whom, what it needs, how many, where, what its page says and asks; when, in TypeTimes. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import { several } from "@/ui/words";
import SomePart from "./SomePart.vue";
import TypeTimes from "./TypeTimes.vue";

type Offer = Schemas["Offer"];
const props = defineProps<{
  type: Schemas["TypeOut"];
  members: Schemas["GiverOut"][];
  things: Schemas["ThingOut"][];
  forms: Schemas["ThingOut"][];
  faults: Record<string, string>;
  may: boolean;
}>();
const emit = defineEmits<{ change: [what: Schemas["TypeIn"]] }>();
const set = (offer: Partial<Offer>) => emit("change", { offer });
const choices = (some: { id: number; name: string }[]) => some.map((one) => ({ value: String(one.id), words: one.name }));
const named = (ids: readonly number[] | undefined, some: { id: number; name: string }[], none: string) =>
  ids?.length
    ? several(
        some.filter((one) => ids.includes(one.id)).map((one) => one.name),
        "or",
      ) || none
    : none;
const PICKS = [
  { value: "least", words: "whoever has least that week" },
  { value: "first", words: "the first who is free" },
];
const WHERE = [
  { value: "place", words: "at" },
  { value: "phone", words: "by phone," },
  { value: "link", words: "by a link," },
];
const CALENDAR = [
  { value: "yes", words: "sent an entry for their calendar by email" },
  { value: "no", words: "sent no entry for their calendar" },
];
const asked = computed(() => [
  { value: "0", words: "for their name, mobile and email" },
  ...props.forms.map((one) => ({ value: String(one.id), words: `the questions of “${one.name}”` })),
]);
const label = (what: string) => `${props.type.name}: ${what}`;
</script>

<template>
  <SetLine :fault="faults.minutes || faults.before || faults.after || faults.name">
    <WordPart :value="type.name" :label="label('its name')" :most="120" :disabled="!may" @keep="emit('change', { name: $event })" />
    takes
    <WordPart
      :value="type.offer.minutes ?? 60"
      type="number"
      :label="label('minutes')"
      :least="5"
      :most="1440"
      :disabled="!may"
      @keep="set({ minutes: Number($event) })" />
    minutes, with
    <WordPart
      :value="type.offer.before ?? 0"
      type="number"
      :label="label('minutes kept free before')"
      :most="480"
      :disabled="!may"
      @keep="set({ before: Number($event) })" />
    before and
    <WordPart
      :value="type.offer.after ?? 0"
      type="number"
      :label="label('minutes kept free after')"
      :most="480"
      :disabled="!may"
      @keep="set({ after: Number($event) })" />
    after.
  </SetLine>
  <TypeTimes :type="type" :faults="faults" :may="may" @set="set" />
  <SetLine :fault="faults.members || faults.places">
    <template v-if="members.length"
      >It is given by
      <SomePart
        :value="(type.offer.members ?? []).map(String)"
        :label="label('who gives it')"
        :words="named(type.offer.members, members, 'the business')"
        :choices="choices(members)"
        :disabled="!may"
        @keep="set({ members: $event.map(Number) })" /><template v-if="(type.offer.members ?? []).length > 1"
        >,
        <WordPart
          :value="type.offer.pick ?? 'least'"
          :label="label('who of several')"
          :choices="PICKS"
          :disabled="!may"
          @keep="set({ pick: $event as 'least' })" /></template
      >, for</template
    ><template v-else>It is for</template>
    <WordPart
      :value="type.offer.places ?? 1"
      type="number"
      :label="label('how many at once')"
      :least="1"
      :most="500"
      :disabled="!may"
      @keep="set({ places: Number($event) })" />
    at once.
    <template #depends>Nobody is booked twice: their time is taken with what lies before and after.</template>
  </SetLine>
  <SetLine v-if="things.length" :fault="faults.things">
    It needs
    <SomePart
      :value="(type.offer.things ?? []).map(String)"
      :label="label('what it needs')"
      :words="named(type.offer.things, things, 'nothing')"
      :choices="choices(things)"
      :disabled="!may"
      @keep="set({ things: $event.map(Number) })" />.
  </SetLine>
  <SetLine :fault="faults.place || faults.price || faults.about || faults.thanks">
    It is
    <WordPart
      :value="type.offer.where ?? 'place'"
      :label="label('by which way')"
      :choices="WHERE"
      :disabled="!may"
      @keep="set({ where: $event as 'place' })" />
    <WordPart
      :value="type.offer.place ?? ''"
      :label="label('where')"
      :empty="(type.offer.where ?? 'place') === 'place' ? 'to be said' : 'details to be said'"
      :disabled="!may"
      @keep="set({ place: $event.trim() })" />, for
    <WordPart
      :value="type.offer.price ?? ''"
      :label="label('its price in words')"
      empty="no price said"
      :most="80"
      :disabled="!may"
      @keep="set({ price: $event.trim() })" />. Its page says
    <WordPart
      :value="type.offer.about ?? ''"
      :label="label('what its page says')"
      empty="nothing more"
      :most="500"
      long
      :disabled="!may"
      @keep="set({ about: $event.trim() })" />
    and, once it is booked,
    <WordPart
      :value="type.offer.thanks ?? ''"
      :label="label('what is said once it is booked')"
      empty="We look forward to seeing you."
      :most="300"
      :disabled="!may"
      @keep="set({ thanks: $event.trim() })" />
  </SetLine>
  <SetLine :fault="faults.form || faults.calendar">
    Who books is asked
    <WordPart
      :value="String(type.offer.form ?? 0)"
      :label="label('what is asked')"
      :choices="asked"
      :disabled="!may"
      @keep="set({ form: Number($event) })" />, and is
    <WordPart
      :value="type.offer.calendar === false ? 'no' : 'yes'"
      :label="label('an entry for their calendar')"
      :choices="CALENDAR"
      :disabled="!may"
      @keep="set({ calendar: $event === 'yes' })" />.
    <template #depends>What is confirmed and reminded besides is for workflows that start when it is booked.</template>
  </SetLine>
</template>
