<script setup lang="ts">
/** A deal in a sentence whose parts are changed in place: what about, worth, where it stands, whose it is, when it is expected. */
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import WordPart from "@/shared/settings/WordPart.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

type Deal = Pick<Schemas["ContactDealOut"], "id" | "name" | "value" | "stage" | "pipeline" | "days" | "owner" | "expected_on">;
const props = defineProps<{ deal: Deal; stages: string[]; owners: Schemas["DealOwnerOut"][]; may: boolean; busy?: boolean }>();
defineEmits<{ move: [stage: string] }>();
const account = useAccount();
const touched = useTouched();
const { act } = usePending({ inTurn: true });
const whose = computed(() => [
  { value: "", words: "nobody’s" },
  ...props.owners.map((one) => ({ value: String(one.id), words: `${one.name}’s` })),
]);
async function set(body: Schemas["DealIn"]) {
  const path = { account: account.value, deal_id: props.deal.id };
  await act(() => ok(api.PATCH("/api/accounts/{account}/deals/{deal_id}", { params: { path }, body })));
  void touched("/contacts/{contact_id}/deals", "/deals/{deal_id}");
}
</script>

<template>
  <p>
    <WordPart
      :value="deal.name"
      :label="`What the deal ${deal.name} is about`"
      empty="without a name"
      :disabled="!may"
      @keep="set({ name: $event })" />, worth
    <WordPart
      :value="Number(deal.value) || ''"
      type="number"
      :label="`What ${deal.name} is worth`"
      empty="nothing yet"
      :least="0"
      :disabled="!may"
      @keep="set({ value: $event || '0' })" />, in
    <WordPart
      :value="deal.stage"
      :label="`The stage of ${deal.name}`"
      :choices="stages.map((stage) => ({ value: stage, words: stage }))"
      :disabled="!may || busy"
      @keep="$emit('move', $event)" />
    of {{ deal.pipeline }}, {{ deal.days ? `for ${many(deal.days, "day")}` : "since today" }}. It is
    <WordPart
      :value="String(deal.owner ?? '')"
      :label="`Whose ${deal.name} is`"
      :choices="whose"
      :disabled="!may"
      @keep="set({ owner: $event ? Number($event) : null })" />, expected
    <WordPart
      :value="deal.expected_on ?? ''"
      type="date"
      :label="`When ${deal.name} is expected`"
      empty="some day"
      :disabled="!may"
      @keep="set({ expected_on: $event || null })" />.
  </p>
</template>
