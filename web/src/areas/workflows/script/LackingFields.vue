<script setup lang="ts">
/** The merge fields of what a line says, and who of those still to read it has nothing in them, by name. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import StateMark from "@/ui/StateMark.vue";
import { number } from "@/ui/words";

const props = defineProps<{ workflow: number; step: string }>();
const { data } = useRead("/workflows/{workflow_id}/lacking/{step}", () => ({ path: { workflow_id: props.workflow, step: props.step } }), {
  live: true,
});
const fields = computed(() => data.value?.fields ?? []);
</script>

<template>
  <BTableSimple v-if="data?.of && fields.length">
    <BThead>
      <BTr>
        <BTh>Fields</BTh>
        <BTh class="num">Lack it, of {{ number(data.of) }}</BTh>
      </BTr>
    </BThead>
    <BTbody>
      <BTr v-for="one in fields" :key="one.field">
        <BTd>
          {{ one.field }}<template v-if="one.words !== null">, or “{{ one.words }}”</template>
          <small v-if="one.lack" class="soft names">{{ one.names.join(", ") }}{{ one.lack > one.names.length ? " and others" : "" }}</small>
        </BTd>
        <BTd class="num" :class="{ gorse: one.lack && one.words === null }">
          <StateMark is="look" v-if="one.lack && one.words === null" /> {{ one.lack }}
        </BTd>
      </BTr>
    </BTbody>
  </BTableSimple>
</template>

<style scoped>
table {
  width: 100%;
  margin: 14px 0;
}
th {
  font-weight: 400;
  color: var(--soft);
}
td,
th {
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
  vertical-align: top;
}
.names {
  display: block;
}
</style>
