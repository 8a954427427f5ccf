<script setup lang="ts">
/** What the workflow added: those written to beside those held back on purpose, and the difference, each with its interval. */
import type { Schemas } from "@/api/client";
import { number } from "@/ui/words";
import IntervalDot from "./IntervalDot.vue";

defineProps<{ data: Schemas["WorkflowResults"] }>();
</script>

<template>
  <section v-if="data.held" class="added">
    <h2>What it added</h2>
    <table>
      <caption class="visually-hidden">
        Who reached the aim, of those written to and of those held back
      </caption>
      <tbody>
        <tr>
          <th scope="row">Written to</th>
          <td class="num">{{ number(data.rate.count) }} of {{ number(data.rate.of) }}</td>
          <td><IntervalDot v-if="data.rate.tells" :dots="[data.rate]" :width="200" /></td>
          <td>{{ data.rate.words }}</td>
        </tr>
        <tr>
          <th scope="row">Held back</th>
          <td class="num">{{ number(data.held.count) }} of {{ number(data.held.of) }}</td>
          <td><IntervalDot v-if="data.held.tells" :dots="[data.held]" :width="200" /></td>
          <td>{{ data.held.words }}</td>
        </tr>
        <tr v-if="data.added">
          <th scope="row">Added, of 100</th>
          <td class="num">
            <b>{{ Math.round(100 * data.added.value) }}</b> ({{ Math.round(100 * data.added.low) }} to
            {{ Math.round(100 * data.added.high) }})
          </td>
          <td>
            <IntervalDot :dots="[{ ...data.added, drawn: data.added.tells ? 'strong' : 'open' }]" :from="-0.5" :to="0.5" :width="200" />
          </td>
          <td>
            <template v-if="data.added.tells"
              >some {{ number(data.added.people) }} people ({{ number(data.added.people_low) }} to
              {{ number(data.added.people_high) }})<template v-if="data.added.money">, {{ data.added.money }}</template></template
            ><template v-else>nobody can tell yet</template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!data.added" class="soft">Too few are held back to tell what it adds.</p>
  </section>
</template>

<style scoped>
.added {
  margin: 14px 0;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 4px 18px 4px 0;
  text-align: left;
  font-weight: 400;
  border-bottom: 1px solid var(--rule);
}
</style>
