<script setup lang="ts">
/** Text with merge fields in it, shown as “first name, or ‘there’”. Kept as one string in which a merge field is
 * written {{ contact.first_name | default: "there" }}. Typing { offers the fields; Enter on a field edits its words.
 * `of` says what it is the text of: when that changes, another text is edited, and what can be undone begins anew. */
import Document from "@tiptap/extension-document";
import Paragraph from "@tiptap/extension-paragraph";
import Text from "@tiptap/extension-text";
import { UndoRedo } from "@tiptap/extensions";
import { type JSONContent, Node } from "@tiptap/core";
import { EditorState } from "@tiptap/pm/state";
import { EditorContent, useEditor } from "@tiptap/vue-3";
import { computed, nextTick, onBeforeUnmount, ref, watch } from "vue";

import type { Schemas } from "@/api/client";

const props = defineProps<{ of?: string; label: string; fields: Schemas["MergeFieldOut"][]; single?: boolean; disabled?: boolean }>();
const model = defineModel<string>({ required: true });
const FIELD = /\{\{\s*([\w.]+)\s*(?:\|\s*default:\s*(?:"([^"]*)"|'([^']*)')\s*)?\}\}/g;

function labelOf(path: string): string {
  return props.fields.find((field) => field.path === path)?.label ?? path;
}
function shown(path: string, words: string | null): string {
  return words === null ? labelOf(path) : words === "" ? `${labelOf(path)}, or nothing` : `${labelOf(path)}, or “${words}”`;
}

const MergeField = Node.create({
  name: "mergeField",
  group: "inline",
  inline: true,
  atom: true,
  selectable: true,
  addAttributes: () => ({ path: { default: "" }, words: { default: null } }),
  parseHTML: () => [{ tag: "span[data-merge]" }],
  renderHTML: ({ node }) => [
    "span",
    { "data-merge": node.attrs.path, class: "merge" },
    shown(node.attrs.path as string, node.attrs.words as string | null),
  ],
  renderText: ({ node }) => written(node.attrs.path as string, node.attrs.words as string | null),
});

function written(path: string, words: string | null): string {
  return words === null ? `{{ ${path} }}` : `{{ ${path} | default: "${words.replaceAll('"', "”")}" }}`;
}
function toContent(text: string): JSONContent {
  const paragraphs = text.split("\n").map((line) => {
    const content: JSONContent[] = [];
    let from = 0;
    for (const found of line.matchAll(FIELD)) {
      if (found.index > from) content.push({ type: "text", text: line.slice(from, found.index) });
      content.push({ type: "mergeField", attrs: { path: found[1], words: found[2] ?? found[3] ?? null } });
      from = found.index + found[0].length;
    }
    if (from < line.length) content.push({ type: "text", text: line.slice(from) });
    return content.length ? { type: "paragraph", content } : { type: "paragraph" };
  });
  return { type: "doc", content: props.single ? paragraphs.slice(0, 1) : paragraphs };
}
function toText(): string {
  if (!editor.value || editor.value.isDestroyed) return model.value;
  const blocks: string[] = [];
  editor.value.state.doc.forEach((block) => {
    let line = "";
    block.forEach((node) => {
      line += node.type.name === "mergeField" ? written(node.attrs.path as string, node.attrs.words as string | null) : (node.text ?? "");
    });
    blocks.push(line);
  });
  return blocks.join("\n");
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
  extensions: [Document, Paragraph, Text, UndoRedo, MergeField],
  content: toContent(model.value),
  editable: !props.disabled,
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
function keepWords(remove = false) {
  const now = editingWords.value;
  if (!now) return;
  editingWords.value = undefined;
  const chain = editor.value?.chain().focus().setNodeSelection(now.at);
  if (remove) chain?.deleteSelection().run();
  else chain?.updateAttributes("mergeField", { words: now.words }).run();
  editor.value?.commands.setTextSelection(now.at + (remove ? 0 : 1));
}
</script>

<template>
  <div class="box" :class="{ single }" @keydown.stop @click.stop>
    <EditorContent :editor="editor" />
    <form v-if="editingWords" class="empty-words" @submit.prevent="keepWords()" @keydown.esc.prevent="editingWords = undefined">
      <label
        ><span>When {{ labelOf(editingWords.path) }} is empty, say</span
        ><input v-model="editingWords.words" maxlength="80" placeholder="nothing"
      /></label>
      <button class="plain">Keep</button><button type="button" class="link" @click="keepWords(true)">take the field out</button>
    </form>
    <div v-if="!disabled" class="foot">
      <slot /><button type="button" class="link" :aria-expanded="menu" @mousedown.prevent @click="menu ? (menu = false) : openMenu()">
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
