<script setup lang="ts">
/** Hours and days off: six weeks at a glance, and the sentences that make them. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import ClosedDays from "./parts/ClosedDays.vue";
import OpenHours from "./parts/OpenHours.vue";
import QuietLines from "./parts/QuietLines.vue";
import SixWeeks from "./parts/SixWeeks.vue";
import { useCare } from "./useCare";

const { care, careRead, keep, faults, may } = useCare();
const { data: hours, ...hoursRead } = useRead("/set-up/hours", undefined, { live: true });
const { data: calendars, ...calendarsRead } = useRead("/set-up/calendars", undefined, { staleTime: Infinity });
const quiet = computed(() => care.value?.quiet ?? []);
</script>

<template>
  <div class="page">
    <PageHead title="Hours and days off" />
    <ReadState :of="[careRead, hoursRead, calendarsRead]" what="Hours and days off">
      <template v-if="care && hours">
        <p class="lead">{{ hours.sentence }}</p>
        <SixWeeks :days="hours.days" :today="hours.today" :quiet="quiet" />
        <OpenHours :opening="care.opening ?? {}" :wait="hours.wait" :fault="faults.opening" :may="may" @keep="keep({ opening: $event })" />
        <QuietLines :quiet="quiet" :send="hours.send" :fault="faults.quiet" :may="may" @keep="keep({ quiet: $event })" />
        <ClosedDays
          :calendar="care.holidays ?? {}"
          :calendars="calendars ?? []"
          :holidays="hours.holidays"
          :skip="hours.skip"
          :today="hours.today"
          :fault="faults.holidays"
          :may="may"
          @keep="keep({ holidays: $event })" />
      </template>
    </ReadState>
  </div>
</template>
