<script setup lang="ts">
/** One score of a contact: what it is made of, and what it was on a day. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";

const props = defineProps<{ one: Schemas["ScoreNow"]; named: boolean; contact: number; today: string }>();
const day = defineModel<string>("day", { required: true });
const asked = computed(() => ({ path: { contact_id: props.contact }, query: { day: day.value || props.today, of: props.one.name } }));
const { data: then } = useRead("/contacts/{contact_id}/score/on", asked, { enabled: () => !!day.value });
type Parts = [rule: string, points: number][];
const sum = (parts: unknown[]) => (parts as Parts).map(([rule, points]) => `${points} ${rule}`).join(" + ");
const called = computed(() => props.one.name || "Lead score");
</script>

<template>
  <p>
    <template v-if="named || one.name">{{ called }}: </template><strong>{{ one.score }}</strong
    ><small class="soft"> = {{ sum(one.made_of) }}</small>
  </p>
  <p class="small">
    What was it on
    <WordPart
      :value="day"
      type="date"
      :label="named ? `What it was on: ${called}` : 'What the score was on'"
      empty="a day"
      @keep="day = $event" />?
    <template v-if="day && then">
      <template v-if="then.known"
        ><b>{{ then.score }}</b
        ><span v-if="then.mark">, {{ then.mark }}</span
        ><span class="soft"> = {{ sum(then.made_of) }}</span></template
      ><span v-else class="soft">Nothing was written down of it yet.</span>
    </template>
  </p>
</template>
