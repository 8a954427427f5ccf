<script setup lang="ts">
/** A contact's appointments: those to come first, each to be moved or cancelled; those that were. */
import { computed, defineAsyncComponent, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useSettle } from "@/shared/booking/useSettle";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { many } from "@/ui/words";

const BookAsk = defineAsyncComponent(() => import("@/shared/booking/BookAsk.vue"));
type One = Schemas["BookedOut"];
const props = defineProps<{ contact: Schemas["ContactRow"]; may: boolean }>();
const { data: all, ...read } = useRead("/contacts/{contact_id}/appointments", () => ({ path: { contact_id: props.contact.id } }), {
  live: true,
});
const { pending, settle } = useSettle();
const stands = (one: One) => one.state === "booked" || one.state === "confirmed";
const toCome = computed(() => (all.value ?? []).filter(stands).reverse());
const were = computed(() => (all.value ?? []).filter((one) => !stands(one)));
const booking = ref(false);
const moving = ref<One>();
const SAID: Record<string, string> = { cancelled: "cancelled", missed: "did not come", attended: "came" };
function cancel(one: One) {
  sure({
    title: `Cancel ${one.type}, ${one.words}?`,
    words: one.course
      ? "All dates of the course that are to come are cancelled, and nothing more is sent about them."
      : "Its time is free again, and nothing more is sent about it. They are sent that it is cancelled where their calendar has it.",
    act: "Cancel it",
    yes: () => settle(one.id, one.contact, "cancelled"),
  });
}
</script>

<template>
  <h2>Appointments</h2>
  <ReadState :of="read" what="Appointments">
    <div v-for="one in toCome" :key="one.id" class="note">
      <span class="serif">{{ one.type }}</span><br />{{ one.words }}
      <small v-if="one.state === 'confirmed'" class="kelp"><StateMark is="done" /> confirmed</small>
      <small v-if="one.place || one.member" class="soft"><br />{{ [one.place, one.member].filter(Boolean).join(" · ") }}</small>
      <div v-if="may" class="small acts">
        <BButton variant="link" :aria-label="`Move… ${one.type}`" @click="moving = one">Move…</BButton>
        <BButton v-if="one.state === 'booked'" variant="link" :disabled="pending" @click="settle(one.id, one.contact, 'confirmed')"
          >Confirmed</BButton
        >
        <BButton variant="link" :aria-label="`Cancel… ${one.type}`" :disabled="pending" @click="cancel(one)">Cancel…</BButton>
      </div>
    </div>
    <p v-if="all && !toCome.length" class="soft">None to come.</p>
    <details v-if="were.length">
      <summary class="soft">{{ many(were.length, "appointment") }} before</summary>
      <p v-for="one in were" :key="one.id" class="small soft">{{ one.type }}, {{ one.words }}: {{ SAID[one.state] }}</p>
    </details>
    <p v-if="may"><BButton variant="outline-primary" @click="booking = true">Book…</BButton></p>
  </ReadState>
  <BookAsk v-if="booking" :contact="contact" @close="booking = false" @done="booking = false" />
  <BookAsk v-if="moving" :moving="moving" @close="moving = undefined" @done="moving = undefined" />
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
.acts {
  display: flex;
  gap: 12px;
}
</style>
