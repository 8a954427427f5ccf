<script setup lang="ts">
/** The picture of a line: brought in as a file, chosen among those that were, or somewhere in the web by its address. */
import { computed, ref, useTemplateRef } from "vue";

import { useRead, useTouched } from "@/queries/account";
import { bytes } from "@/ui/words";
import BringFile from "./BringFile.vue";

const props = defineProps<{ address: string; label: string; disabled: boolean }>();
const emit = defineEmits<{ change: [address: string] }>();
const touched = useTouched();
const choosing = ref(false);
const { data: pictures } = useRead("/pictures");
const own = computed(() => pictures.value?.find((one) => one.address === props.address));
const file = useTemplateRef("file");
async function brought(made: { address: string }) {
  emit("change", made.address);
  choosing.value = false;
  await touched("/pictures");
}
function choose(address: string) {
  emit("change", address);
  choosing.value = false;
}
</script>

<template>
  <div class="picture" @dragover.prevent @drop.prevent="file?.bring($event.dataTransfer?.files)">
    <img v-if="own" :src="own.address" alt="" />
    <p v-if="own" class="soft small">{{ own.name }}, {{ own.width }} × {{ own.height }}, {{ bytes(own.bytes) }}</p>
    <p v-if="!disabled" class="acts small">
      <BringFile
        ref="file"
        to="/pictures"
        :words="own ? 'Another file' : 'Bring in a file'"
        accept="image/png,image/jpeg,image/webp,image/gif"
        @brought="brought" />
      <BButton v-if="pictures?.length" variant="link" :aria-expanded="choosing" @click="choosing = !choosing">One that is here</BButton>
    </p>
    <ul v-if="choosing" aria-label="Pictures that are here">
      <li v-for="one in pictures" :key="one.id">
        <BButton variant="link" class="one" :title="one.name" @click="choose(one.address)">
          <img :src="one.address" :alt="one.name" loading="lazy" />
        </BButton>
      </li>
    </ul>
    <label v-if="!own" class="small address"
      ><span class="soft">or in the web at </span
      ><BFormInput
        :model-value="address"
        placeholder="https://"
        :aria-label="`${label}: its address in the web`"
        maxlength="1000"
        :disabled="disabled"
        @update:model-value="emit('change', String($event))"
    /></label>
  </div>
</template>

<style scoped>
img {
  display: block;
  max-width: 100%;
  max-height: 180px;
}
.picture {
  font-family: var(--sans);
}
p {
  margin: 2px 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
ul {
  list-style: none;
  margin: 6px 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  max-height: 220px;
  overflow: auto;
}
li .one {
  border: 1px solid var(--rule);
  background: var(--paper);
  padding: 2px;
}
li img {
  height: 72px;
}
.address {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.address :deep(input) {
  flex: 1;
  min-height: 26px;
  padding: 0 2px;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: transparent;
}
</style>
