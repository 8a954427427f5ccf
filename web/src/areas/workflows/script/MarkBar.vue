<script setup lang="ts">
/** Bold, italic and links of the words that are chosen. */
import type { Editor } from "@tiptap/vue-3";
import { ref } from "vue";

const props = defineProps<{ editor: Editor }>();
const address = ref<string>();
const on = (mark: string) => props.editor.isActive(mark);
function ask() {
  address.value = String(props.editor.getAttributes("link").href ?? "");
}
function keep() {
  const href = (address.value ?? "").trim();
  const chain = props.editor.chain().focus().extendMarkRange("link");
  if (href) chain.setLink({ href: /^(https?:|mailto:|tel:|\{\{)/i.test(href) ? href : `https://${href}` }).run();
  else chain.unsetLink().run();
  address.value = undefined;
}
</script>

<template>
  <form v-if="address !== undefined" class="leads" @submit.prevent="keep" @keydown.esc.prevent="address = undefined">
    <label>leads to <BFormInput v-model="address" maxlength="1000" placeholder="https://" autofocus @blur="keep" /></label>
  </form>
  <template v-else>
    <BButton variant="link" class="small" :aria-pressed="on('bold')" @mousedown.prevent @click="editor.chain().focus().toggleBold().run()">
      <strong>bold</strong>
    </BButton>
    <BButton
      variant="link"
      class="small"
      :aria-pressed="on('italic')"
      @mousedown.prevent
      @click="editor.chain().focus().toggleItalic().run()">
      <em>italic</em>
    </BButton>
    <BButton variant="link" class="small" :aria-pressed="on('link')" @mousedown.prevent @click="ask">link</BButton>
  </template>
</template>

<style scoped>
.leads input {
  width: 16rem;
}
[aria-pressed="true"] {
  color: var(--ink);
  text-decoration-thickness: 2px;
}
</style>
