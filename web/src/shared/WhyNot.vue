<script setup lang="ts">
/** “Why did this one not get it?”: for a contact, a workflow and a line, answered from what was written down. */
import { computed, ref, watch } from "vue";

import { useRead } from "@/queries/account";
import ContactPick from "@/shared/ContactPick.vue";
import ReadState from "@/ui/ReadState.vue";

const props = defineProps<{ contact?: number; contactName?: string; workflow?: number; step?: string }>();
const somebody = ref(props.contact);
const workflow = ref(props.workflow ?? 0);
const step = ref(props.step ?? "");
watch(
  () => props.step,
  (now) => (step.value = now ?? ""),
);
const { data: workflows, ...workflowsRead } = useRead("/workflows", undefined, { enabled: () => !props.workflow });
const { data: lines, ...linesRead } = useRead(
  "/workflows/{workflow_id}/published-lines",
  () => ({ path: { workflow_id: workflow.value } }),
  { enabled: () => workflow.value > 0 },
);
const ready = computed(() => !!somebody.value && workflow.value > 0);
const { data: reasons, ...reasonsRead } = useRead(
  "/contacts/{contact_id}/why-not",
  () => ({ path: { contact_id: somebody.value ?? 0 }, query: { workflow_id: workflow.value, step: step.value } }),
  { live: true, enabled: ready },
);
const { data: who } = useRead("/contacts/{contact_id}", () => ({ path: { contact_id: somebody.value ?? 0 } }), {
  enabled: () => !!somebody.value && !props.contact,
});
</script>

<template>
  <div class="why">
    <p>
      Why did <template v-if="contact">{{ contactName }}</template><ContactPick v-else v-model="somebody" :name="who?.name" no-invented />
      not get
      <BFormSelect v-if="workflow || !props.workflow" v-model="step" aria-label="Which line">
        <option value="">anything, or not come in</option>
        <option v-for="one in lines" :key="one.step" :value="one.step">{{ one.sentence }}</option>
      </BFormSelect>
      <template v-if="!props.workflow">
        of
        <BFormSelect v-model="workflow" aria-label="Of which workflow"
          ><option :value="0" disabled>choose a workflow</option>
          <option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></template
      >?
    </p>
    <ReadState :of="[workflowsRead, linesRead, reasonsRead]" what="Why not">
      <ol v-if="ready && reasons" role="status" aria-label="Why not">
        <li v-for="(one, index) in reasons" :key="index">
          <small v-if="one.when" class="soft">{{ one.when }} </small><span class="serif">{{ one.sentence }}</span
          ><small v-if="Object.keys(one.values).length" class="soft">
            ·
            <template v-for="(value, name, number) in one.values" :key="name"
              >{{ number ? ", " : "" }}{{ String(name).replace("_", " ") }}: {{ value }}</template
            ></small
          >
        </li>
      </ol>
    </ReadState>
  </div>
</template>

<style scoped>
.why select {
  max-width: 100%;
  font-size: 14px;
  padding: 2px 4px;
}
ol {
  list-style: none;
  padding: 0;
  margin: 4px 0 10px;
}
li {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
  font-size: 14.5px;
}
</style>
