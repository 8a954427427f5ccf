<script setup lang="ts">
/** The first run: who opens the link that was printed makes the practice and themselves; then a second step, the first account,
 * and whom its emails come from. What comes after the first page can be left for later. */
import { useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import { keyOfLink } from "@/api/signingIn";
import { useSession } from "@/queries/session";
import FirstSender from "@/shared/beginning/FirstSender.vue";
import ThreeQuestions from "@/shared/beginning/ThreeQuestions.vue";
import SecondSteps from "@/shared/signing-in/SecondSteps.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import DoorPage from "./DoorPage.vue";

const emit = defineEmits<{ done: [] }>();
const LEADS = {
  practice: "Nobody can sign in yet. You are the first: your practice, and you as its consultant.",
  step: "A second step, so that your password alone opens nothing. It can be set up later, too: under your name.",
  account: "The first client business. Each has people, workflows and messages of its own.",
  sender: "Whom do its emails come from?",
};
const at = ref<keyof typeof LEADS>("practice");
const cache = useQueryClient();
const router = useRouter();
const { signedIn } = useSession();
const account = ref("");
const stepped = ref(false);
const key = keyOfLink();
const given = reactive({ practice: "", name: "", email: "", password: "" });
const { pending, fault, faults, act } = usePending({ here: true, fields: ["practice", "name", "email", "password"] });
const lead = computed(() => LEADS[at.value]);
const begin = () =>
  act(async () => {
    const session = await ok(api.POST("/api/session/first", { body: { ...given, key } }));
    at.value = "step";
    cache.setQueryData(["session"], session);
  });
function made(slug: string) {
  account.value = slug;
  at.value = "sender";
}
async function finish() {
  await signedIn();
  await router.replace(account.value ? { name: "people", params: { account: account.value } } : { name: "accounts" });
  emit("done");
}
</script>

<template>
  <DoorPage :lead="lead">
    <form v-if="at === 'practice'" @submit.prevent="begin">
      <FormRow label="What is your practice called?" :fault="faults.practice"
        ><BFormInput v-model="given.practice" required maxlength="120" autofocus
      /></FormRow>
      <FormRow label="What are you called?" :fault="faults.name"
        ><BFormInput v-model="given.name" autocomplete="name" required maxlength="120"
      /></FormRow>
      <FormRow label="Email" :fault="faults.email"
        ><BFormInput v-model="given.email" type="email" autocomplete="username" required maxlength="254"
      /></FormRow>
      <FormRow label="Password" :fault="faults.password" help="Ten letters or more"
        ><BFormInput v-model="given.password" type="password" autocomplete="new-password" required minlength="10" maxlength="200"
      /></FormRow>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <BButton type="submit" variant="primary" :disabled="pending">Begin</BButton>
    </form>
    <template v-else-if="at === 'step'">
      <SecondSteps @changed="stepped = true" />
      <p class="on">
        <BButton :variant="stepped ? 'primary' : 'outline-primary'" @click="at = 'account'">{{ stepped ? "Go on" : "Later" }}</BButton>
      </p>
    </template>
    <ThreeQuestions v-else-if="at === 'account'" :accounts="[]" @made="made"
      ><BButton variant="link" @click="finish">Later</BButton></ThreeQuestions
    >
    <FirstSender v-else :account="account" @done="finish" />
  </DoorPage>
</template>

<style scoped>
.on {
  margin-top: 18px;
}
</style>
