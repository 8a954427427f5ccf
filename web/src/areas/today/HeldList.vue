<script setup lang="ts">
/** Messages that a workflow holds until somebody lets them go. */
import { api, ok, type Schemas } from "@/api/client";
import { useMay, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { sure } from "@/ui/sure";

defineProps<{ held: Schemas["AsideMessage"][]; count: number }>();
const account = useAccount();
const touched = useTouched();
const mayDo = useMay();
const { act } = usePending();
async function settle(message: number, did: "let_go" | "drop") {
  const settled = await act(async () => {
    const done = await ok(
      api.POST("/api/accounts/{account}/messages/{message_id}/settle", {
        params: { path: { account: account.value, message_id: message } },
        body: { did },
      }),
    );
    tell(
      did === "drop"
        ? "It is not sent, and what follows up on it is left out."
        : done.goes
          ? `It goes ${done.goes}, when the hours let it.`
          : "It is on its way.",
    );
  });
  void touched("/aside");
  return settled;
}
const drop = (one: Schemas["AsideMessage"]) =>
  sure({
    title: `Do not send “${one.name}” to ${one.contact}`,
    act: "Do not send it",
    words: "It is never sent, and what follows up on it is left out for them.",
    yes: () => settle(one.id, "drop"),
  });
</script>

<template>
  <h2 class="second">{{ many(count, "message waits", "messages wait") }} to be let go</h2>
  <div v-for="one in held" :key="one.id" class="note">
    <RouterLink class="serif name" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink>
    <small class="soft">{{ one.channel }} “{{ one.name }}”, {{ one.since }}</small>
    <details class="small">
      <summary>What it says</summary>
      <blockquote>
        <strong v-if="one.subject">{{ one.subject }}<br /></strong>{{ one.body }}
      </blockquote>
    </details>
    <p v-if="mayDo('people')" class="row">
      <BButton variant="outline-primary" :aria-label="`Let it go: “${one.name}” to ${one.contact}`" @click="settle(one.id, 'let_go')"
        >Let it go</BButton
      ><BButton variant="link" :aria-label="`do not send it: “${one.name}” to ${one.contact}`" @click="drop(one)">do not send it</BButton>
    </p>
  </div>
</template>
