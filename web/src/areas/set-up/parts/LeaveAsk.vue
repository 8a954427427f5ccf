<script setup lang="ts">
/** Somebody leaves: who takes over what they have in hand, and which lines name them. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import OfWorkflows from "./OfWorkflows.vue";

type Member = Schemas["MemberOut"];
const props = defineProps<{ member: Member; others: Member[] }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const answered = useAnswered("/set-up/team");
const touched = useTouched();
const to = ref(props.member.stand_in ?? props.others.find((one) => one.role !== "consultant")?.id ?? props.others[0]?.id);
const { pending, faults, act } = usePending({ fields: ["to"] });
async function leave() {
  const path = { account: account.value, person_id: props.member.id };
  const body = { to: props.member.holds ? to.value : null };
  const done = await act(async () =>
    answered(await ok(api.POST("/api/accounts/{account}/set-up/team/{person_id}/leave", { params: { path }, body }))),
  );
  if (!done) return;
  const taker = props.others.find((one) => one.id === to.value)?.name;
  tell(`${props.member.name} has left.${props.member.holds ? ` ${taker} has what was theirs.` : ""}`);
  void touched("everything");
  emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="`${member.name} leaves`" @close="emit('close')">
    <form class="form" @submit.prevent="leave">
      <p>The account is closed to them at once, also where they have it open. What they did stays under their name.</p>
      <FormRow v-if="member.holds" :label="`Who takes over ${member.holds}?`" :fault="faults.to"
        ><BFormSelect v-model="to"
          ><option v-for="one in others" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <p v-else class="soft">They have nothing in hand.</p>
      <p v-if="member.named_in.length" class="gorse">
        Named in lines of <OfWorkflows :of="member.named_in" />: what falls to them there goes to whoever is responsible, until the lines
        say somebody else.
      </p>
      <div class="actions">
        <BButton variant="danger" type="submit" :disabled="pending">They leave</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
