<script setup lang="ts">
/** A contact's lead score: what it is made of, and what it was on a day. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";
import ReadState from "@/ui/ReadState.vue";

const props = defineProps<{ contact: Schemas["ContactRow"]; today: string }>();
const path = computed(() => ({ contact_id: props.contact.id }));
const { data: score, ...read } = useRead("/contacts/{contact_id}/score", () => ({ path: path.value }), { live: true });
const day = ref("");
const asked = computed(() => ({ path: path.value, query: { day: day.value || props.today } }));
const { data: then } = useRead("/contacts/{contact_id}/score/on", asked, { enabled: () => !!day.value });
type Parts = [rule: string, points: number][];
const made = computed(() => (score.value?.made_of ?? []) as Parts);
const sum = (parts: Parts) => parts.map(([rule, points]) => `${points} ${rule}`).join(" + ");
</script>

<template>
  <ReadState :of="read" what="The lead score">
    <template v-if="made.length">
      <h2>Lead score</h2>
      <p>
        <strong>{{ score?.score }}</strong><small class="soft"> = {{ sum(made) }}</small>
      </p>
      <p class="small">
        What was it on
        <WordPart :value="day" type="date" label="What the score was on" empty="a day" @keep="day = $event" />?
        <template v-if="day && then">
          <template v-if="then.known"
            ><b>{{ then.score }}</b
            ><span v-if="then.mark">, {{ then.mark }}</span
            ><span class="soft"> = {{ sum(then.made_of as Parts) }}</span></template
          ><span v-else class="soft">Nothing was written down of it yet.</span>
        </template>
      </p>
    </template>
  </ReadState>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
</style>
