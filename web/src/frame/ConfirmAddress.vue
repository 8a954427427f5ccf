<script setup lang="ts">
/** From the link that was mailed: this address is theirs, and they sign in with it from now on. */
import { ref } from "vue";

import { came, keyOfLink, way } from "@/api/signingIn";
import { usePending } from "@/ui/usePending";
import DoorPage from "./DoorPage.vue";

const done = ref(false);
const { pending, fault, act } = usePending({ here: true });
const confirm = () =>
  act(async () => {
    await came(way.POST("/_allauth/browser/v1/auth/email/verify", { body: { key: keyOfLink() } }));
    done.value = true;
  });
</script>

<template>
  <DoorPage lead="Is this address yours?">
    <form v-if="!done" @submit.prevent="confirm">
      <p>You were mailed a link there. Say that it is yours, and you sign in with it from now on.</p>
      <p v-if="fault" class="fault" role="alert">This link has run out, or was used. Ask for the change once more.</p>
      <BButton type="submit" variant="primary" :disabled="pending">It is mine</BButton>
    </form>
    <p v-else role="status">You sign in with this address from now on.</p>
    <p><a href="/">To Bluffside</a></p>
  </DoorPage>
</template>
