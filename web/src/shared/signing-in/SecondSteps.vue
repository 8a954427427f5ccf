<script setup lang="ts">
/** One's second steps: an authenticator app, passkeys, and recovery codes for when both are out of reach. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { came, way } from "@/api/signingIn";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { dayOf } from "@/ui/words";
import ProofAsk from "./ProofAsk.vue";
import { addPasskey, isAtAName, knowsPasskeys } from "./passkeys";
import { proved } from "./proving";

interface Step {
  type: "totp" | "webauthn" | "recovery_codes";
  id?: number;
  name?: string;
  created_at: number;
  unused_code_count?: number;
}
const emit = defineEmits<{ changed: [] }>();
const BASE = "/_allauth/browser/v1/account/authenticators";
const { data: steps, refetch } = useQuery({ queryKey: ["second-steps"], queryFn: async () => (await came<Step[]>(way.GET(BASE))).data });
const app = computed(() => steps.value?.find((one) => one.type === "totp"));
const passkeys = computed(() => steps.value?.filter((one) => one.type === "webauthn") ?? []);
const left = computed(() => steps.value?.find((one) => one.type === "recovery_codes")?.unused_code_count);
const since = (one: Step) => dayOf(new Date(one.created_at * 1_000).toISOString());
const { pending, act } = usePending();

const setting = ref<{ secret: string; picture: string }>();
const code = ref("");
const codes = ref<string[]>([]);
const name = ref("");
const naming = ref(false);
const again = async () => {
  await refetch();
  emit("changed");
};
const begin = () =>
  act(async () => {
    const { meta } = await came(way.GET(`${BASE}/totp`));
    setting.value = { secret: meta.secret ?? "", picture: meta.picture ?? "" };
    code.value = "";
  });
const finish = () =>
  act(async () => {
    await proved(() => came(way.POST(`${BASE}/totp`, { body: { code: code.value.replaceAll(" ", "") } })));
    setting.value = undefined;
    await show();
    await refetch();
  });
const show = async () => {
  const read = await proved(() => came<{ unused_codes: string[] }>(way.GET(`${BASE}/recovery-codes`)));
  codes.value = read.data.unused_codes;
};
const makeAnew = () =>
  act(async () => {
    const made = await proved(() => came<{ unused_codes: string[] }>(way.POST(`${BASE}/recovery-codes`)));
    codes.value = made.data.unused_codes;
    await refetch();
  });
const add = () =>
  act(async () => {
    const had = left.value !== undefined;
    await proved(() => addPasskey(name.value || "a passkey")).catch((error: unknown) => {
      throw error instanceof DOMException ? new Error("No passkey was made.") : error;
    });
    naming.value = false;
    name.value = "";
    if (!had) await show();
    await refetch();
    if (had) await again();
  });
function takeAway(what: string, call: () => ReturnType<typeof came>) {
  sure({
    title: `Take ${what} away?`,
    words: "It opens nothing any more, from now on.",
    act: "Take it away",
    yes: async () => {
      const done = await act(() => proved(call));
      if (done) tell(`${what} is taken away.`);
      await again();
      return done;
    },
  });
}
const withoutApp = () => takeAway("the authenticator app", () => came(way.DELETE(`${BASE}/totp`)));
const withoutPasskey = (one: Step) =>
  takeAway(one.name ?? "the passkey", () => came(way.DELETE(`${BASE}/webauthn`, { body: { authenticators: [one.id ?? 0] } })));
function written() {
  codes.value = [];
  void again();
}
</script>

<template>
  <div class="steps">
    <section v-if="codes.length" class="codes" aria-label="Recovery codes">
      <p>
        <strong>Your recovery codes.</strong> Each lets you in once, when app and passkey are out of reach. Write them down, or print them;
        keep them where your telephone is not.
      </p>
      <ol>
        <li v-for="one in codes" :key="one" class="mono">{{ one }}</li>
      </ol>
      <BButton variant="primary" @click="written">I have them</BButton>
    </section>
    <form v-else-if="setting" class="app" @submit.prevent="finish">
      <img :src="setting.picture" alt="A picture for your authenticator app; the key beside it says the same" width="164" height="164" />
      <div>
        <p>
          Have your authenticator app read the picture, or type this key into it:
          <span class="mono key">{{ setting.secret.match(/.{1,4}/g)?.join(" ") }}</span>
        </p>
        <FormRow label="The code it shows now"
          ><BFormInput v-model="code" inputmode="numeric" autocomplete="one-time-code" required maxlength="8" autofocus
        /></FormRow>
        <p class="row">
          <BButton type="submit" variant="primary" :disabled="pending">Set it up</BButton
          ><BButton variant="link" @click="setting = undefined">Not now</BButton>
        </p>
      </div>
    </form>
    <ul v-else>
      <li>
        <span><StateMark is="done" v-if="app" /> Authenticator app</span>
        <template v-if="app"
          ><small class="soft">since {{ since(app) }}</small> <BButton variant="link" @click="withoutApp">Take away…</BButton></template
        >
        <BButton v-else variant="link" :disabled="pending" @click="begin">Set it up</BButton>
      </li>
      <li v-for="one in passkeys" :key="one.id">
        <span><StateMark is="done" /> Passkey: {{ one.name }}</span> <small class="soft">since {{ since(one) }}</small>
        <BButton variant="link" :aria-label="`Take away ${one.name}`" @click="withoutPasskey(one)">Take away…</BButton>
      </li>
      <li>
        <form v-if="naming" class="row" @submit.prevent="add">
          <FormRow label="What do you call it?"
            ><BFormInput v-model="name" required maxlength="60" placeholder="my laptop" autofocus
          /></FormRow>
          <BButton type="submit" variant="outline-primary" :disabled="pending">Make it</BButton>
        </form>
        <template v-else>
          <span>{{ passkeys.length ? "Another passkey" : "Passkey" }}</span>
          <small v-if="!isAtAName()" class="soft">needs a name in the address: open this page at http://localhost instead</small>
          <small v-else-if="!knowsPasskeys()" class="soft">this browser knows none</small>
          <BButton v-else variant="link" @click="naming = true">Add one</BButton>
        </template>
      </li>
      <li v-if="left !== undefined">
        <span>Recovery codes</span> <small :class="left < 3 ? 'gorse' : 'soft'">{{ left }} left</small>
        <BButton variant="link" :disabled="pending" @click="act(show)">Show them</BButton>
        <BButton variant="link" :disabled="pending" @click="makeAnew">Make new ones</BButton>
      </li>
    </ul>
    <ProofAsk />
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
ul > li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 12px;
  border-bottom: 1px solid var(--rule);
  padding: 6px 0;
  font: 17px var(--serif);
}
li > span {
  flex: 1;
  min-width: 12rem;
}
.app {
  display: flex;
  flex-wrap: wrap;
  gap: 20px;
}
.app > div {
  flex: 1;
  min-width: 15rem;
}
.key {
  display: block;
  overflow-wrap: anywhere;
}
.mono {
  font-family: ui-monospace, monospace;
}
.codes {
  background: var(--mist);
  padding: 14px 18px;
}
ol {
  columns: 2;
  max-width: 22rem;
}
img {
  background: #fff;
}
</style>
