<script setup lang="ts">
/** The colour by which a workflow is known in lists and in the diary; kept at once, and not part of any version. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { useTouched } from "@/queries/account";
import { usePending } from "@/ui/usePending";
import { tell } from "@/ui/told";

type Colour = Schemas["LookIn"]["colour"];
const COLOURS: Colour[] = ["", "sea", "thrift", "gorse", "kelp", "rust", "slate"];
const props = defineProps<{ workflow: number; colour: string }>();
const account = useAccount();
const touched = useTouched();
const colour = ref(props.colour as Colour);
const { act } = usePending();
async function paint(next: Colour) {
  const before = colour.value;
  const path = { account: account.value, workflow_id: props.workflow };
  const put = (one: Colour) =>
    ok(api.PUT("/api/accounts/{account}/workflows/{workflow_id}/colour", { params: { path }, body: { colour: one } }));
  colour.value = next;
  if (!(await act(() => put(next)))) return void (colour.value = before);
  void touched("/workflows");
  tell(`In lists and in the diary it is ${next || "without a colour"} now.`, () => put(before).then(() => (colour.value = before)));
}
</script>

<template>
  <BDropdown variant="link" size="sm" class="colour edge" :class="colour && `c-${colour}`" :text="`in lists: ${colour || 'no colour'}`">
    <BDropdownItem v-for="one in COLOURS" :key="one" @click="paint(one)">{{ one || "no colour" }}</BDropdownItem>
  </BDropdown>
</template>

<style scoped>
.colour {
  font-size: 13px;
}
.colour :deep(.dropdown-toggle) {
  min-height: 24px;
  font-size: 13px;
  color: var(--soft);
  text-decoration: none;
}
.colour[class*="c-"] {
  padding-left: 8px;
}
</style>
