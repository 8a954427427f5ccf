<script setup lang="ts">
/** Text with merge fields in it, shown as “first name, or ‘there’”. Kept as one string in which a merge field is
 * written {{ contact.first_name | default: "there" }}. Typing { offers the fields; Enter on a field edits its words.
 * `of` says what it is the text of: when that changes, another text is edited, and what can be undone begins anew. */
import Bold from "@tiptap/extension-bold";
import Document from "@tiptap/extension-document";
import Italic from "@tiptap/extension-italic";
import Link from "@tiptap/extension-link";
import Paragraph from "@tiptap/extension-paragraph";
import Text from "@tiptap/extension-text";
import { UndoRedo } from "@tiptap/extensions";
import { EditorState } from "@tiptap/pm/state";
import { EditorContent, useEditor } from "@tiptap/vue-3";
import { computed, nextTick, onBeforeUnmount, ref, watch } from "vue";

import type { Schemas } from "@/api/client";
import MarkBar from "./MarkBar.vue";
import { mergeNode } from "./mergeNode";
import { toContent as contentOf, toText as textOf } from "./richText";

const props = defineProps<{
  of?: string;
  label: string;
  fields: Schemas["MergeFieldOut"][];
  single?: boolean;
  disabled?: boolean;
  /** With bold, italic and links; a line of a letter: Enter asks for the next line, Backspace in an empty one takes it out. */
  rich?: boolean;
  /** A thing a line: Enter writes the next thing, and in an empty one asks for the next line. */
  many?: boolean;
  autofocus?: boolean;
}>();
const model = defineModel<string>({ required: true });
const emit = defineEmits<{ next: []; erase: []; focus: [] }>();

const labelOf = (path: string) => props.fields.find((field) => field.path === path)?.label ?? path;
const how = { rich: props.rich, single: props.single };
const toContent = (text: string) => contentOf(text, how);
function toText(): string {
  return !editor.value || editor.value.isDestroyed ? model.value : textOf(editor.value.getJSON(), props.rich);
}

const menu = ref(false);
const marked = ref(0);
const editingWords = ref<{ at: number; path: string; words: string }>();
const list = ref<HTMLElement>();

/** What was typed is told once the frame that shows it is drawn, so that no letter waits for all that follows from it;
 * at once when the field is left. */
let telling = 0;
function tellSoon() {
  if (!telling) telling = requestAnimationFrame(() => (telling = window.setTimeout(tell)));
}
function tell() {
  telling = 0;
  const text = toText();
  if (text !== model.value) model.value = text;
}
onBeforeUnmount(() => telling && tell());

const editor = useEditor({
  extensions: [
    Document,
    Paragraph,
    Text,
    mergeNode(labelOf),
    // A letter's lines are undone together, by the page.
    ...(props.rich ? [Bold, Italic, Link.configure({ openOnClick: false, autolink: false, linkOnPaste: true })] : [UndoRedo]),
  ],
  content: toContent(model.value),
  editable: !props.disabled,
  autofocus: props.autofocus ? "end" : false,
  editorProps: {
    attributes: () => ({
      role: "textbox",
      "aria-label": props.label,
      "aria-multiline": String(!props.single),
      class: "writing",
      spellcheck: "true",
    }),
    handleKeyDown(view, event) {
      if (menu.value) return menuKey(event);
      if (event.key === "{") {
        openMenu();
        return true;
      }
      if (props.rich && event.key === "Enter" && !event.shiftKey && (!props.many || !view.state.selection.$from.parent.content.size)) {
        emit("next");
        return true;
      }
      if (props.rich && event.key === "Backspace" && !view.state.doc.textContent && !model.value) {
        emit("erase");
        return true;
      }
      if (event.key === "Enter" && props.single) return true;
      const node = view.state.selection.$from.nodeAfter;
      if (event.key === "Enter" && node?.type.name === "mergeField" && !view.state.selection.empty) {
        void editWords(view.state.selection.from, node.attrs as { path: string; words: string | null });
        return true;
      }
      return false;
    },
    handleClickOn(_view, _pos, node, at) {
      if (node.type.name !== "mergeField" || props.disabled) return false;
      void editWords(at, node.attrs as { path: string; words: string | null });
      return true;
    },
  },
  onUpdate: () => tellSoon(),
  onBlur: tell,
  onFocus: () => emit("focus"),
});
watch(
  () => props.of,
  () => {
    const now = editor.value;
    if (!now) return;
    const doc = now.schema.nodeFromJSON(toContent(model.value));
    now.view.updateState(EditorState.create({ doc, plugins: now.state.plugins }));
    menu.value = false;
    editingWords.value = undefined;
  },
  { flush: "post" },
);
watch(model, (text) => {
  if (!telling && text !== toText()) editor.value?.commands.setContent(toContent(text), { emitUpdate: false });
});

/** What was typed since the brace, by which fields are found. */
const sought = ref("");
const offered = computed(() => {
  const words = sought.value.trim().toLowerCase();
  const begins = props.fields.filter((field) => field.label.toLowerCase().startsWith(words));
  return [
    ...begins,
    ...props.fields.filter((field) => !begins.includes(field) && `${field.label} ${field.path}`.toLowerCase().includes(words)),
  ];
});
function openMenu() {
  menu.value = true;
  marked.value = 0;
  sought.value = "";
}
function seek(words: string) {
  sought.value = words;
  marked.value = 0;
}
function menuKey(event: KeyboardEvent): boolean {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, offered.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter" || event.key === "Tab") insert(offered.value[marked.value]?.path);
  else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) seek(sought.value + event.key);
  else if (event.key === "Backspace" && sought.value) seek(sought.value.slice(0, -1));
  else {
    menu.value = false;
    return event.key === "Escape";
  }
  void nextTick(() => list.value?.querySelector(".marked")?.scrollIntoView({ block: "nearest" }));
  return true;
}
const USUAL: Record<string, string> = { "contact.first_name": "there" };
function insert(path: string | undefined) {
  menu.value = false;
  if (!path) return;
  const words = path.startsWith("contact.") ? (USUAL[path] ?? "") : null;
  editor.value?.chain().focus().insertContent({ type: "mergeField", attrs: { path, words } }).run();
}
async function editWords(at: number, attrs: { path: string; words: string | null }) {
  editingWords.value = { at, path: attrs.path, words: attrs.words ?? "" };
  await nextTick();
  document.querySelector<HTMLInputElement>(".empty-words input")?.select();
}
/** Keys typed here mean nothing to the script around it; those of a letter's page do. */
function passOn(event: KeyboardEvent) {
  if (!props.rich || !(event.ctrlKey || event.metaKey || event.altKey)) event.stopPropagation();
}
function keepWords(remove = false) {
  const now = editingWords.value;
  if (!now) return;
  editingWords.value = undefined;
  const chain = editor.value?.chain().focus().setNodeSelection(now.at);
  if (remove) chain?.deleteSelection().run();
  else chain?.updateAttributes("mergeField", { words: now.words }).run();
  editor.value?.commands.setTextSelection(now.at + (remove ? 0 : 1));
}
defineExpose({ focus: () => editor.value?.commands.focus("end") });
</script>

<template>
  <div class="box" :class="{ single, rich }" @keydown="passOn" @click="rich || $event.stopPropagation()">
    <EditorContent :editor="editor" />
    <form v-if="editingWords" class="empty-words" @submit.prevent="keepWords()" @keydown.esc.prevent="editingWords = undefined">
      <label
        ><span>When {{ labelOf(editingWords.path) }} is empty, say</span
        ><input v-model="editingWords.words" maxlength="80" placeholder="nothing"
      /></label>
      <button class="plain">Keep</button><button type="button" class="link" @click="keepWords(true)">take the field out</button>
    </form>
    <div v-if="!disabled" class="foot">
      <slot /><MarkBar v-if="rich && editor" :editor="editor" /><button
        type="button"
        class="link"
        :aria-expanded="menu"
        @mousedown.prevent
        @click="menu ? (menu = false) : openMenu()">
        merge field <kbd>{</kbd>
      </button>
    </div>
    <ul v-if="menu" ref="list" role="listbox" aria-label="Merge fields">
      <li v-if="!offered.length" class="soft">No field is called “{{ sought }}”. Escape leaves.</li>
      <li
        v-for="(field, index) in offered"
        :key="field.path"
        role="option"
        :aria-selected="index === marked"
        :class="{ marked: index === marked }"
        @mousedown.prevent="insert(field.path)">
        {{ field.label }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.box {
  position: relative;
}
.box :deep(.writing) {
  font: 16px/1.5 var(--serif);
  border-top: 1px solid var(--ink);
  border-bottom: 1px solid var(--rule);
  padding: 9px 0 11px;
  min-height: 5.5em;
  outline-offset: 3px;
  overflow-wrap: anywhere;
}
.box.rich :deep(.writing) {
  border: 0;
  padding: 2px 0;
  min-height: 0;
  font: inherit;
}
.box.rich:not(:focus-within) .foot {
  display: none;
}
.box.rich .foot {
  justify-content: flex-end;
}
.box.rich .foot button {
  margin: 0;
}
.box.single :deep(.writing) {
  min-height: 0;
  border-top-color: var(--rule);
}
.box :deep(.writing p) {
  margin: 0;
  min-height: 1.5em;
}
.box :deep(.merge) {
  background: #e3ebe8;
  border-bottom: 1px solid var(--sea);
  padding: 0 4px;
  cursor: pointer;
}
.box :deep(.merge.ProseMirror-selectednode) {
  outline: 2px solid var(--sea);
}
.foot {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  font-size: 13.5px;
  color: var(--soft);
  padding-top: 5px;
}
.foot button {
  margin-left: auto;
}
ul {
  position: absolute;
  right: 0;
  z-index: 6;
  list-style: none;
  margin: 0;
  padding: 4px 0;
  background: var(--paper);
  border: 1px solid var(--ink);
  max-height: 240px;
  overflow: auto;
}
li {
  padding: 3px 12px;
  cursor: pointer;
}
li.marked {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
.empty-words {
  display: flex;
  gap: 8px;
  align-items: end;
  flex-wrap: wrap;
  background: var(--mist);
  padding: 8px;
  margin-top: 4px;
}
</style>
