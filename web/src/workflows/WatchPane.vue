<script setup lang="ts">
/** Who is in the workflow and where; with a line chosen, who is there. */
import type { Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import { many } from "@/ui/words";
import { useScript } from "./script";

defineProps<{ watch?: Schemas["Watch"] }>();
const script = useScript();
const account = useAccount();
</script>

<template>
  <aside id="notes" aria-label="Who is inside">
    <h2>{{ many(watch?.inside ?? 0, "person", "people") }} inside</h2>
    <p class="soft">{{ watch?.ended ?? 0 }} have left. <RouterLink v-if="watch?.set_aside" class="rust" :to="`/${account}/workflows/waits`">▲ {{ watch.set_aside }} set aside.</RouterLink></p>
    <p v-if="script.watching.value"><strong>At the chosen line.</strong> <button class="link" @click="script.watching.value = ''">Show everybody</button></p>
    <ol>
      <li v-for="row in watch?.enrolments" :key="row.id">
        <RouterLink class="serif" :to="`/${account}/people/${row.contact_id}`">{{ row.contact }}</RouterLink> <small class="soft">since {{ row.joined }}, version {{ row.version }}</small>
        <div v-if="row.fault" class="rust small">▲ {{ row.fault }}</div>
        <div v-else-if="row.ended" class="soft small">✓ {{ row.ended }}</div>
        <div v-else class="small"><span class="gorse">◷ {{ row.where }}</span> <span class="soft">until {{ row.until }}</span></div>
      </li>
    </ol>
    <p v-if="watch && !watch.enrolments.length" class="soft">Nobody came in yet. Publish it, then enrol people from the list under People, or tag them.</p>
  </aside>
</template>

<style scoped>
ol { list-style: none; padding: 0; margin: 10px 0 0; }
li { border-top: 1px solid var(--rule); padding: 7px 0; }
</style>
