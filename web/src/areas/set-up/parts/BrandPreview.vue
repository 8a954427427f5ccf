<script setup lang="ts">
/** An email, a form and a contact's page in the brand, beside one another. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";

const props = defineProps<{ brand: Schemas["BrandOut"] }>();
const { data: details } = useAccountDetails();
const { data: business } = useRead("/set-up/business");
const name = computed(() => details.value?.name ?? "");
const looks = computed(() => ({ "--brand": props.brand.shown, "--on": props.brand.on, "--link": props.brand.shown_link }));
</script>

<template>
  <div class="papers" :style="looks" aria-label="How emails, forms and contacts’ pages look" role="img">
    <figure>
      <div class="paper mail">
        <p class="from">From {{ details?.sender_name || name }}</p>
        <img v-if="brand.logo" :src="brand.logo" alt="" />
        <p>Hello Rosa,</p>
        <p>thank you for coming on Saturday. The next steps are <span class="link">here</span>.</p>
        <p class="foot">
          <template v-if="brand.closing">{{ brand.closing }}<br /></template>{{ name }}, {{ business?.postal_address || "postal address"
          }}<br /><span class="link">What you hear from us, and how</span>
        </p>
      </div>
      <figcaption>An email</figcaption>
    </figure>
    <figure v-for="one in ['A form', 'A contact’s page']" :key="one">
      <div class="paper">
        <div class="head">
          <img v-if="brand.logo" :src="brand.logo" alt="" /><strong>{{ name }}</strong
          ><span v-if="brand.line">{{ brand.line }}</span>
        </div>
        <img v-if="brand.picture" class="wide" :src="brand.picture" alt="" />
        <div class="body">
          <template v-if="one === 'A form'">
            <p><b>First name</b></p>
            <p class="field"></p>
            <span class="button">Send it</span>
          </template>
          <template v-else>
            <p>What you hear from us, Rosa.</p>
            <p><span class="link">Change how we reach you</span></p>
          </template>
        </div>
      </div>
      <figcaption>{{ one }}</figcaption>
    </figure>
  </div>
</template>

<style scoped>
.papers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 22px;
  margin-top: 14px;
}
figure {
  margin: 0;
}
.paper {
  border: 1px solid var(--rule);
  background: #faf8f3;
  color: #1f2a30;
  min-height: 220px;
  font: 15px/1.45 var(--serif);
}
.mail {
  background: #fff;
  padding: 12px 16px;
}
.mail img,
.head img {
  max-height: 34px;
  max-width: 100%;
  display: block;
  margin-bottom: 8px;
}
.from {
  font: 13px var(--sans);
  border-bottom: 1px solid #d9d5ca;
  padding-bottom: 6px;
}
.foot {
  font-size: 12px;
  border-top: 1px solid #d9d5ca;
  padding-top: 8px;
  margin-top: 18px;
  white-space: pre-line;
}
.head {
  background: var(--brand);
  color: var(--on);
  padding: 12px 16px;
}
.head span {
  display: block;
  font-size: 13px;
}
.wide {
  display: block;
  width: 100%;
  max-height: 90px;
  object-fit: cover;
}
.body {
  padding: 12px 16px;
}
.field {
  border: 1px solid #a9a494;
  height: 26px;
  background: #fff;
}
.link {
  color: var(--link);
  text-decoration: underline;
}
.button {
  display: inline-block;
  background: var(--brand);
  color: var(--on);
  padding: 4px 12px;
}
figcaption {
  font: 13px var(--sans);
  color: var(--soft);
  margin-top: 4px;
}
</style>
