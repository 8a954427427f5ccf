<script setup lang="ts">
/** One contact: how to reach them, where they are in workflows, and all that happened, with the reasons. */
import { computed, ref } from "vue";
import { useRoute } from "vue-router";

import { api, ok } from "@/api/client";
import { useMay, useRead, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import { useSubject } from "@/router/titles";
import { chosen } from "@/shared/chosen";
import ProposalList from "@/shared/ProposalList.vue";
import ReadState from "@/ui/ReadState.vue";
import { usePending } from "@/ui/usePending";
import ContactAppointments from "./ContactAppointments.vue";
import ContactDeals from "./ContactDeals.vue";
import ContactDetails from "./ContactDetails.vue";
import ContactScore from "./ContactScore.vue";
import ContactStory from "./ContactStory.vue";
import ContactWrite from "./ContactWrite.vue";
import InWorkflows from "./InWorkflows.vue";
import OwnValues from "./OwnValues.vue";
import Reaching from "./Reaching.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const { data: details } = useAccountDetails();
const route = useRoute();
const touched = useTouched();
const may = useMay();
const { act } = usePending();
const id = computed(() => Number(route.params.contact));
const asked = () => ({ path: { contact_id: id.value } });
const { data: contact, ...contactRead } = useRead("/contacts/{contact_id}", asked, { live: true });
const { data: enrolments, ...enrolmentsRead } = useRead("/contacts/{contact_id}/enrolments", asked, { live: true });
const { data: story, ...storyRead } = useRead("/contacts/{contact_id}/story", asked, { live: true });
useSubject(() => contact.value?.name);

const tag = ref("");
async function setTag(name: string, add: boolean) {
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/contacts/tag", {
        params: { path: { account: account.value } },
        body: { who: chosen({ ids: [id.value] }), tag: name, add },
      }),
    ),
  );
  tag.value = "";
  void touched("everything");
  if (done && !add) tell(`The tag “${name}” is off.`, () => setTag(name, true));
}
</script>

<template>
  <ReadState :of="[contactRead, enrolmentsRead, storyRead]" what="This contact" missing="There is nobody here" page>
    <div v-if="contact && enrolments && story" class="page two">
      <h1>{{ contact.name }}</h1>
      <ContactWrite v-if="may('people')" class="box" :contact="contact" />
      <aside>
        <ContactDetails :key="contact.id" :contact="contact" :zone="details?.zone ?? ''" :may="may('people')" />
        <h2>Tags</h2>
        <p>
          <span v-for="name in contact.tags" :key="name" class="tag"
            >{{ name }}
            <BButton v-if="may('people')" variant="link" class="off" :aria-label="`Take off ${name}`" @click="setTag(name, false)"
              >✕</BButton
            ></span
          >
          <span v-if="!contact.tags.length" class="soft">none</span>
        </p>
        <form v-if="may('people')" class="row" @submit.prevent="setTag(tag, true)">
          <BFormInput v-model.trim="tag" aria-label="New tag" placeholder="add a tag" maxlength="80" required /><BButton
            variant="outline-primary"
            type="submit"
            >Tag</BButton
          >
        </form>
        <ContactDeals :key="`d${contact.id}`" :contact="contact" :may="may('people')" />
        <ContactAppointments :key="`a${contact.id}`" :contact="contact" :may="may('people')" />
        <InWorkflows :key="contact.id" :contact="contact" :enrolments="enrolments" :may="may('people')" />
        <Reaching :contact="contact" :account="account" :may="may('people')" @changed="touched('everything')" />
        <ContactScore :key="`s${contact.id}`" :contact="contact" :today="details?.local_now.slice(0, 10) ?? ''" />
        <OwnValues :contact="contact" :may="may('people')" :may-more="may('import')" @changed="touched('everything')" />
        <p v-if="details?.outside" class="soft small outside">
          <RouterLink :to="{ name: 'outside', query: { contact: contact.id } }">Open their simulated phone and mailbox</RouterLink>
        </p>
      </aside>
      <section>
        <ProposalList :contact="contact.id" />
        <ContactStory :key="contact.id" :story="story" :enrolments="enrolments" />
      </section>
    </div>
  </ReadState>
</template>

<style scoped>
/* At the left who they are, at the right what is written to them and what happened; on a phone the box to write in comes first. */
.two {
  display: grid;
  grid-template: auto auto 1fr / 300px minmax(0, 1fr);
  column-gap: 40px;
}
.box {
  grid-area: 1 / 2 / 3 / 3;
}
aside {
  grid-area: 2 / 1 / 4 / 2;
}
section {
  grid-area: 3 / 2 / 4 / 3;
}

section {
  min-width: 0;
}
aside h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
.off {
  text-decoration: none;
  font-size: 12px;
  padding: 0 2px;
}
.outside {
  margin-top: 20px;
}
@media (max-width: 760px) {
  .two {
    display: block;
  }
  .box {
    margin-top: 12px;
  }
  section {
    margin-top: 20px;
  }
}
</style>
