<script setup lang="ts">
/** What people are sorted by: the account's fields, its tags, its lists. */
import { useRead } from "@/queries/account";
import ReadState from "@/ui/ReadState.vue";
import FieldsSection from "./sorting/FieldsSection.vue";
import ListsSection from "./sorting/ListsSection.vue";
import TagsSection from "./sorting/TagsSection.vue";

const { data: fields, ...fieldsRead } = useRead("/fields");
const { data: tags, ...tagsRead } = useRead("/tags");
const { data: lists, ...listsRead } = useRead("/lists");
</script>

<template>
  <div class="page">
    <h1>Fields, tags and lists</h1>
    <ReadState :of="[fieldsRead, tagsRead, listsRead]" what="Fields, tags and lists">
      <FieldsSection :fields="fields ?? []" />
      <TagsSection :tags="tags ?? []" />
      <ListsSection :lists="lists ?? []" />
    </ReadState>
  </div>
</template>

<style scoped>
.page :deep(section) {
  margin-top: 22px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
</style>
