<script setup lang="ts">
/** A new message of the library: what it is called, and by what it goes; or begun from wording of ours. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import { readable } from "../script/wordings";

type Wording = Schemas["WordingOut"];
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const router = useRouter();
const name = ref("");
const kind = ref("email");
const from = ref("");
const { data: catalogue } = useRead("/catalogue", undefined, { staleTime: Infinity });
const { data: wordings } = useRead("/messages/wordings", undefined, { staleTime: Infinity });
const ways = computed(() => catalogue.value?.written_with.kinds.filter((one) => one.parts.some((part) => part.field === "library")) ?? []);
const trades = computed(() => [...new Set(wordings.value?.map((one) => one.trade))]);
const of = (trade: string) => wordings.value?.filter((one) => one.trade === trade) ?? [];
const chosen = computed(() => wordings.value?.find((one) => one.key === from.value));
function begin(one: Wording | undefined) {
  const named = wordings.value?.some((known) => known.name === name.value);
  if (!name.value || named) name.value = one?.name ?? "";
}
const { pending, act, faults } = usePending({ fields: ["name", "kind", "wording"] });
async function write() {
  await act(async () => {
    const body = { name: name.value, kind: kind.value, wording: from.value };
    const made = await ok(api.POST("/api/accounts/{account}/messages", { params: { path: { account: account.value } }, body }));
    void router.push({ name: "message", params: { message: made.id } });
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="A new message" wide @close="emit('close')">
    <form @submit.prevent="write">
      <p>
        <FormRow label="As the team calls it" :fault="faults.name"
          ><BFormInput v-model.trim="name" required maxlength="120" autofocus placeholder="Thanks for coming" class="wide"
        /></FormRow>
      </p>
      <p>
        <FormRow label="It begins" :fault="faults.wording"
          ><BFormSelect v-model="from" @update:model-value="begin(wordings?.find((one) => one.key === $event))"
            ><option value="">from nothing</option>
            <optgroup v-for="trade in trades" :key="trade" :label="trade">
              <option v-for="one in of(trade)" :key="one.key" :value="one.key">{{ one.occasion }}: {{ one.name }}</option>
            </optgroup></BFormSelect
          ></FormRow
        >
      </p>
      <section v-if="chosen" class="serif said" aria-label="What it says">
        <p v-if="chosen.subject">
          <b>{{ chosen.subject }}</b>
        </p>
        <p v-for="(words, channel) in chosen.words" :key="channel" class="words">{{ readable(words) }}</p>
        <p class="soft small">It becomes your own: change what you like. Nothing goes out by itself.</p>
      </section>
      <FormRow v-else label="It goes by" :fault="faults.kind"
        ><BFormSelect v-model="kind"
          ><option v-for="one in ways" :key="one.kind" :value="one.kind">
            {{ one.kind === "reach" ? "the channel they prefer" : one.label.toLowerCase() }}
          </option></BFormSelect
        ></FormRow
      >
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Write it</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.said {
  border-left: 2px solid var(--rule);
  padding-left: 14px;
  max-height: 38vh;
  overflow: auto;
}
.words {
  white-space: pre-line;
}
</style>
