<script setup lang="ts">
/** Myself: what I am called, how I am told of what, when I am away, and how I sign in. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useSession } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import { useKeeping } from "@/shared/settings/useKeeping";
import WordPart from "@/shared/settings/WordPart.vue";
import ZonePart from "@/shared/settings/ZonePart.vue";
import SecondSteps from "@/shared/signing-in/SecondSteps.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { usePending } from "@/ui/usePending";
import SignInLines from "./SignInLines.vue";
import WhereSignedIn from "./WhereSignedIn.vue";

type Myself = Schemas["MyselfOut"];
const cache = useQueryClient();
const { signedIn } = useSession();
const { data: me, ...read } = useQuery({ queryKey: ["myself"], queryFn: () => ok(api.GET("/api/myself")) });
const { faults, act } = usePending({ fields: ["name", "phone", "zone", "signature", "told", "away_until"] });
const change = useKeeping();
const answered = (now: Myself) => cache.setQueryData(["myself"], now);
const patch = (body: Schemas["MyselfIn"]) => ok(api.PATCH("/api/myself", { body }));
function keep(parts: Schemas["MyselfIn"], shown: Partial<Myself> = parts as Partial<Myself>) {
  const before = me.value;
  if (!before) return;
  const was = Object.fromEntries(Object.keys(parts).map((key) => [key, key === "told" ? hows(before) : before[key as keyof Myself]]));
  change({
    show: () => answered({ ...before, ...shown }),
    keep: () => act(async () => answered(await patch(parts))),
    undo: async () => answered(await patch(was)),
    after: async () => {
      await cache.invalidateQueries({ queryKey: ["myself"] });
      if ("name" in parts) await signedIn();
    },
  });
}
const hows = (of: Myself) => Object.fromEntries(of.told.map((one) => [one.kind, one.how]));
const tellSo = (kind: string, how: string) =>
  keep(
    { told: { [kind]: how } },
    { told: me.value?.told.map((one) => (one.kind === kind ? { ...one, how: how as typeof one.how } : one)) ?? [] },
  );
const isAway = computed(() => Boolean(me.value?.away_from));
const back = () => keep({ away_from: null, away_until: null });
</script>

<template>
  <div class="page">
    <PageHead title="Myself" about="in every account I work in" />
    <ReadState :of="read" what="What is known of you">
      <template v-if="me">
        <SetHead title="Who I am" first />
        <SetLine :fault="faults.name || faults.phone">
          I am called <WordPart :value="me.name" label="Name" :most="120" @keep="keep({ name: $event })" />, and rung at
          <WordPart
            :value="me.number"
            label="Telephone"
            type="tel"
            empty="no number"
            @keep="keep({ phone: $event }, { number: $event })" />.
          <template #depends>Tests that you send to yourself go to this number, and to your email.</template>
        </SetLine>
        <SetLine :fault="faults.signature">
          Where a message is signed by whoever is responsible, it says
          <WordPart :value="me.signature" label="Signature" :empty="me.name" @keep="keep({ signature: $event })" />.
          <template #depends>In messages: “responsible member’s signature”.</template>
        </SetLine>
        <SetLine :fault="faults.zone">
          I live by the clock of
          <ZonePart :value="me.zone" none="each account" @keep="keep({ zone: $event.zone })" /><BButton
            v-if="me.zone"
            variant="link"
            class="small"
            @click="keep({ zone: '' })"
            >of each account</BButton
          >.
          <template #depends>When mail that comes once a day is sent to you: at seven in the morning.</template>
        </SetLine>
        <SetHead title="How I am told" />
        <SetLine v-for="one in me.told" :key="one.kind" :fault="faults.told">
          {{ one.words }}:
          <WordPart
            :value="one.how"
            :label="one.words"
            :choices="one.ways.map((way) => ({ value: way.name, words: way.words }))"
            @keep="tellSo(one.kind, $event)" />.
        </SetLine>
        <SetHead title="Away" />
        <SetLine :fault="faults.away_until">
          <template v-if="isAway">
            I am away from
            <WordPart :value="me.away_from" label="First day away" type="date" @keep="keep({ away_from: $event || null })" /> to
            <WordPart
              :value="me.away_until"
              label="Last day away"
              type="date"
              empty="until I am back"
              @keep="keep({ away_until: $event || null })" />. <BButton variant="link" class="small" @click="back">I am back</BButton>
          </template>
          <template v-else
            >I am here. Away from
            <WordPart :value="null" label="First day away" type="date" empty="a day" @keep="keep({ away_from: $event || null })"
          /></template>
          <template #depends>What falls to you meanwhile goes to who stands in for you: the team’s page of each account says who.</template>
        </SetLine>
        <SetHead title="Signing in" />
        <SignInLines :email="me.email" />
        <h3 class="serif">A second step</h3>
        <p class="soft small">
          {{ me.demanded ? "Your practice asks everybody for one." : "More than a password: what you know, and what you have." }}
        </p>
        <SecondSteps @changed="signedIn" />
        <h3 class="serif">Where I am signed in</h3>
        <WhereSignedIn />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
h3 {
  font-size: 17px;
  font-weight: 600;
  margin: 18px 0 2px;
}
p {
  margin: 0 0 4px;
}
</style>
