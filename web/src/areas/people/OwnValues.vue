<script setup lang="ts">
/** What else is known of a contact: the account's fields, further addresses, lists, quiet they asked for; forms that the
 * team fills in; proof of consent, and erasing. */
import { computed, reactive, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { useRead } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import FormFill from "@/shared/FormFill.vue";
import { useAccount } from "@/queries/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";

const props = defineProps<{ contact: Schemas["ContactRow"]; may: boolean; mayMore: boolean }>();
const emit = defineEmits<{ changed: [] }>();
const account = useAccount();
const router = useRouter();
const path = computed(() => ({ account: account.value, contact_id: props.contact.id }));
const { data: more, ...moreRead } = useRead("/contacts/{contact_id}/details", () => ({ path: path.value }), { live: true });
/** Lists and series of the outside service; it is simulated, and knows the contact by number. */
const { data: outside, ...outsideRead } = useRead("/contacts/{contact_id}/outside-lists", () => ({ path: path.value }), { live: true });
const wanted = reactive({ service: "", what: "list" as "list" | "series", name: "" });
const setOutside = (one: Schemas["OutsideList"], on: boolean) =>
  change(() =>
    ok(
      api.PUT("/api/accounts/{account}/contacts/{contact_id}/outside-lists", {
        params: { path: path.value },
        body: { service: one.service, what: one.what, name: one.name, on },
      }),
    ),
  );
async function putOn() {
  if (await setOutside(wanted, true)) wanted.name = "";
}
const { data: forms } = useRead("/forms");
const teamForms = computed(() => forms.value?.filter((one) => one.for_team) ?? []);
const filled = computed(() => more.value?.fields.filter((one) => one.value) ?? []);

const { pending, act } = usePending();
async function change(what: () => Promise<unknown>) {
  const done = await act(what);
  emit("changed");
  return done;
}
const editing = ref(false);
const values = reactive<Record<string, string>>({});
watch(editing, (on) => {
  if (on) for (const one of more.value?.fields ?? []) values[one.name] = one.value;
});
async function keep() {
  const changed = Object.fromEntries(
    (more.value?.fields ?? []).filter((one) => values[one.name] !== one.value).map((one) => [one.name, values[one.name] ?? ""]),
  );
  if (
    await change(() =>
      ok(api.PUT("/api/accounts/{account}/contacts/{contact_id}/fields", { params: { path: path.value }, body: { values: changed } })),
    )
  )
    editing.value = false;
}
const address = ref("");
const setFurther = (channel: "email" | "text", text: string, on: boolean) =>
  change(() =>
    ok(
      api.PUT("/api/accounts/{account}/contacts/{contact_id}/further", {
        params: { path: path.value },
        body: { channel, address: text, on },
      }),
    ),
  );
async function addFurther() {
  if (await setFurther(address.value.includes("@") ? "email" : "text", address.value, true)) address.value = "";
}
const list = ref("");
async function setList(name: string, on: boolean) {
  if (
    await change(() =>
      ok(api.PUT("/api/accounts/{account}/contacts/{contact_id}/lists", { params: { path: path.value }, body: { list: name, on } })),
    )
  ) {
    list.value = "";
    if (!on) tell(`They are off the list “${name}”.`, () => setList(name, true));
  }
}
const pause = (weeks: number) =>
  change(() => ok(api.PUT("/api/accounts/{account}/contacts/{contact_id}/pause", { params: { path: path.value }, body: { weeks } })));
const filling = ref<number>();
const erasing = ref(false);
const name = ref("");
const why = ref("");
async function erase() {
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/contacts/{contact_id}/erase", {
        params: { path: path.value },
        body: { name: name.value, why: why.value },
      }),
    ),
  );
  if (done) void router.push({ name: "people" });
}
const { kindOf } = useFieldKinds();
</script>

<template>
  <ReadState :of="[moreRead, outsideRead]" what="What else is known">
    <h2>Fields</h2>
    <form v-if="editing" class="edit" @submit.prevent="keep">
      <FormRow v-for="one in more?.fields" :key="one.name" :label="one.name"
        ><BFormSelect v-if="kindOf(one.kind)?.picks === 'one'" v-model="values[one.name]"
          ><option value="" />
          <option v-for="choice in kindOf(one.kind)?.own_choices ? one.choices : kindOf(one.kind)?.fixed" :key="choice">
            {{ choice }}
          </option></BFormSelect
        >
        <BFormInput
          v-else
          v-model="values[one.name]"
          :type="(kindOf(one.kind)?.input ?? 'text') as 'text'"
          :placeholder="one.choices.join(', ')"
      /></FormRow>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Keep</BButton
        ><BButton variant="link" @click="editing = false">Leave as it was</BButton>
      </div>
    </form>
    <template v-else>
      <dl v-if="filled.length">
        <template v-for="one in filled" :key="one.name"
          ><dt>{{ one.name }}</dt>
          <dd>{{ one.said }}</dd></template
        >
      </dl>
      <p v-else class="soft">nothing yet</p>
      <p v-if="may && more?.fields.length"><BButton variant="link" @click="editing = true">Change</BButton></p>
    </template>
    <h2>Lists</h2>
    <p>
      <span v-for="one in contact.lists" :key="one" class="tag"
        >{{ one }}
        <BButton v-if="may" variant="link" class="off" :aria-label="`Take off the list ${one}`" @click="setList(one, false)"
          >✕</BButton
        ></span
      ><span v-if="!contact.lists.length" class="soft">none</span>
    </p>
    <form v-if="may" class="row" @submit.prevent="setList(list, true)">
      <BFormInput v-model.trim="list" aria-label="Put on a list" placeholder="put on a list" maxlength="120" required /><BButton
        variant="outline-primary"
        type="submit"
        >List</BButton
      >
    </form>
    <details>
      <summary>Further addresses{{ more?.further.length ? ` (${more.further.length})` : "" }}</summary>
      <p v-for="[channel, text, written] in more?.further as ['email' | 'text', string, string][]" :key="text" class="small">
        {{ written }}
        <BButton v-if="may" variant="link" class="off" :aria-label="`Take away ${written}`" @click="setFurther(channel, text, false)"
          >✕</BButton
        >
      </p>
      <form v-if="may" class="row" @submit.prevent="addFurther">
        <BFormInput v-model.trim="address" aria-label="Another email or number" placeholder="another email or number" required /><BButton
          variant="outline-primary"
          type="submit"
          >Add</BButton
        >
      </form>
    </details>
    <details>
      <summary>Lists in outside services{{ outside?.length ? ` (${outside.length})` : "" }}</summary>
      <p v-for="one in outside" :key="`${one.service}${one.what}${one.name}`" class="small">
        {{ one.what }} “{{ one.name }}” at {{ one.service }}
        <BButton v-if="may" variant="link" class="off" :aria-label="`Take off the ${one.what} ${one.name}`" @click="setOutside(one, false)"
          >✕</BButton
        >
      </p>
      <form v-if="may" class="row" @submit.prevent="putOn">
        <BFormSelect v-model="wanted.what" aria-label="List or series"
          ><option value="list">list</option>
          <option value="series">series</option></BFormSelect
        ><BFormInput v-model.trim="wanted.name" aria-label="Name of the list or series" placeholder="which" required /><BFormInput
          v-model.trim="wanted.service"
          aria-label="Outside service"
          placeholder="at which service"
          required /><BButton variant="outline-primary" type="submit">Put on</BButton>
      </form>
    </details>
    <details>
      <summary>Their own page, quiet, proof</summary>
      <p class="small"><a :href="more?.preferences_link" target="_blank" rel="noopener">What they hear, as they see it</a></p>
      <p v-if="more?.quiet_until" class="small gorse">
        <StateMark is="waits" /> Asked for quiet until {{ more.quiet_until }}.
        <BButton v-if="may" variant="link" @click="pause(0)">End it</BButton>
      </p>
      <p v-else-if="may" class="small">
        They ask for quiet: <BButton variant="link" @click="pause(2)">2 weeks</BButton>
        <BButton variant="link" @click="pause(4)">4 weeks</BButton> <BButton variant="link" @click="pause(13)">3 months</BButton>
      </p>
      <p v-if="may" class="small">
        Everything kept about them: <a :href="`/api/accounts/${account}/contacts/${contact.id}/everything.txt`">to read</a>,
        <a :href="`/api/accounts/${account}/contacts/${contact.id}/everything.json`">as JSON</a>
      </p>
      <p v-if="mayMore" class="small">
        <a :href="`/api/accounts/${account}/contacts/${contact.id}/consent-proof`">Proof of consent, as PDF</a>
      </p>
      <p v-if="mayMore" class="small"><BButton variant="link" class="rust" @click="erasing = true">Erase this person…</BButton></p>
    </details>
    <template v-if="teamForms.length && may">
      <h2>Forms for the team</h2>
      <p v-for="one in teamForms" :key="one.id">
        <BButton variant="link" @click="filling = filling === one.id ? undefined : one.id">{{ one.name }}</BButton>
      </p>
      <FormFill
        v-if="filling"
        :key="filling"
        :form="filling"
        :contact="contact.id"
        @done="
          filling = undefined;
          emit('changed');
        " />
    </template>
    <Ask v-if="erasing" v-slot="{ close }" title="Erase this person" @close="erasing = false">
      <form @submit.prevent="erase">
        <p>
          All that is known of {{ contact.name }} is gone for good: messages, answers, deals, appointments, history. Only that they had
          opted out is kept, as a code from which no address can be read.
        </p>
        <FormRow :label="`Type ${contact.name}`"><BFormInput v-model="name" required autofocus /></FormRow>
        <FormRow label="Why, for the record"><BFormInput v-model="why" maxlength="300" placeholder="asked by email on 3 March" /></FormRow>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="pending">Erase for good</BButton
          ><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </ReadState>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
dl {
  margin: 4px 0 0;
}
dt {
  font-size: 13px;
  color: var(--soft);
}
dd {
  margin: 0 0 6px;
  overflow-wrap: anywhere;
}
.edit label,
.edit input,
.edit select {
  width: 100%;
}
.off {
  text-decoration: none;
  font-size: 12px;
  padding: 0 2px;
}
details {
  margin-top: 10px;
}
summary {
  cursor: pointer;
  color: var(--sea);
  font-size: 14px;
}
details p {
  margin: 6px 0;
}
dialog label {
  width: 100%;
  margin-bottom: 8px;
}
</style>
