<script setup lang="ts">
/** A deal in the table, in two lines of type: who, what, worth; what happens next, and how long it is here. */
import type { Schemas } from "@/api/client";
import { money } from "@/ui/words";
import { howLong, whatNext, whenNext } from "@/shared/deals/nextWords";

defineProps<{
  deal: Schemas["DealOut"];
  row: Schemas["RowOut"]["row"];
  now: string;
  currency: string;
  selected: boolean;
  picked: boolean;
  may: boolean;
}>();
defineEmits<{ select: []; drag: [event: DragEvent] }>();
const byPerson = (sort: string) => ["nothing", "task", "answer"].includes(sort);
</script>

<template>
  <article
    :id="`deal-${deal.id}`"
    class="deal"
    :class="{ selected, picked }"
    :aria-current="selected || undefined"
    :draggable="may"
    @click="$emit('select')"
    @dragstart="$emit('drag', $event)">
    <p class="a">
      <span v-if="picked" class="sea" aria-hidden="true">✓</span><span v-if="picked" class="visually-hidden">picked: </span>
      <RouterLink class="who" :to="{ name: 'deal', params: { deal: deal.id } }" tabindex="-1">{{ deal.contact }}</RouterLink>
      <span class="what">{{ deal.name }}</span><span class="fig">{{ money(Number(deal.value), currency) }}</span>
    </p>
    <p class="b">
      <span class="next"
        ><b :class="{ person: byPerson(deal.next.sort), waits: deal.next.sort === 'waits' }">{{ whatNext(deal.next) }}</b
        ><span v-if="whenNext(deal.next, row, now)" :class="{ rust: deal.next.late_days }"
          >, {{ whenNext(deal.next, row, now) }}</span
        ></span
      ><span class="fig" :class="{ gorse: deal.over }">{{ howLong(deal) }}</span>
    </p>
  </article>
</template>

<style scoped>
.deal {
  padding: 4px 0;
  cursor: default;
}
.deal + .deal {
  border-top: 1px solid var(--rule);
}
.selected {
  background: var(--mist);
  box-shadow:
    -8px 0 0 var(--mist),
    8px 0 0 var(--mist),
    -11px 0 0 var(--sea);
}
p {
  margin: 0;
  display: flex;
  align-items: baseline;
  gap: 7px;
  line-height: 1.35;
}
.who {
  font: 16px var(--serif);
  color: var(--ink);
  white-space: nowrap;
}
.what,
.next {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.what {
  font-size: 13px;
  color: var(--soft);
}
.b {
  font-size: 13.5px;
}
b {
  font-weight: 400;
}
.person {
  color: var(--thrift);
}
.waits {
  color: var(--gorse);
}
.when {
  flex: none;
}
.fig {
  margin-left: auto;
  flex: none;
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
.b .fig {
  font-size: 13px;
  color: var(--soft);
}
.b .fig.gorse {
  color: var(--gorse);
}
</style>
