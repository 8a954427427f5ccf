<script setup lang="ts">
/** One source of leads: its address, a sample that was caught, what each value of it becomes; what came, and trying again. */
import { computed, ref, watch } from "vue";
import { useClipboard } from "@vueuse/core";
import { useRoute } from "vue-router";

import { useSubject } from "@/router/titles";
import { useRead, useTouched, useAnswered } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import NameInPlace from "@/ui/NameInPlace.vue";
import { cut, many } from "@/ui/words";
import { plain } from "@/sentences/written";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import DealMade from "./DealMade.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import { sure } from "@/ui/sure";
import { useMadeAddress } from "./madeAddress";

type Matching = Schemas["Matching"];
type Pointed = Schemas["Pointed"];
const OWN: [string, string][] = [
  ["full_name", "full name"],
  ["first_name", "first name"],
  ["last_name", "last name"],
  ["email", "email"],
  ["mobile", "mobile"],
  ["post", "postal address"],
  ["zone", "time zone"],
  ["purchase.amount", "what they paid"],
  ["purchase.item", "what they bought"],
  ["purchase.number", "number of the order"],
];
const HOW: [NonNullable<Pointed["how"]>, string][] = [
  ["as_it_is", "as it is"],
  ["split_name", "split into first and last"],
  ["capitals", "with capitals"],
  ["lower", "in small letters"],
  ["day_first", "a date, day first"],
  ["month_first", "a date, month first"],
  ["comma", "a number with a comma"],
];
const account = useAccount();
const route = useRoute();
const touched = useTouched();
const answered = useAnswered("/lead-sources/{source_id}", () => ({ path: path.value }));
const path = computed(() => ({ account: account.value, source_id: Number(route.params.source) }));
const { data: source, ...sourceRead } = useRead("/lead-sources/{source_id}", () => ({ path: path.value }), { live: true });
useSubject(() => source.value?.name);
const { data: fields, ...fieldsRead } = useRead("/fields");
const matching = ref<Matching>();
const on = ref(true);
watch(
  source,
  (now) => {
    if (!now || (matching.value && !same.value)) return;
    matching.value = plain(now.matching);
    on.value = now.on;
  },
  { immediate: true },
);
const same = computed(() => JSON.stringify(matching.value) === kept.value);
const kept = ref("");
watch(
  source,
  (now) => {
    if (now && kept.value === "") kept.value = JSON.stringify(now.matching);
  },
  { immediate: true },
);
const pointed = (at: string) => matching.value?.fields?.find((one) => one.path === at);
const { pending, act } = usePending();
async function keep() {
  const next = matching.value;
  if (!next) return;
  await act(async () => {
    const now = await ok(
      api.PUT("/api/accounts/{account}/lead-sources/{source_id}", { params: { path: path.value }, body: { on: on.value, matching: next } }),
    );
    kept.value = JSON.stringify(now.matching);
    matching.value = plain(now.matching);
    answered(now as Parameters<typeof answered>[0]);
    void touched("/lead-sources/{source_id}", "/lead-sources");
  });
}
async function rename(name: string) {
  await ok(api.PUT("/api/accounts/{account}/lead-sources/{source_id}/name", { params: { path: path.value }, body: { name } }));
  await touched("/lead-sources", "/lead-sources/{source_id}");
}
function point(at: string, fills: string) {
  if (!matching.value) return;
  const others = (matching.value.fields ?? []).filter((one) => one.path !== at && one.fills !== fills);
  matching.value.fields = fills ? [...others, { path: at, fills, how: fills === "full_name" ? "split_name" : "as_it_is" }] : others;
  void keep();
}
function change(one: Pointed | undefined, how: string) {
  if (one) one.how = how as Pointed["how"];
  void keep();
}
async function again() {
  await act(() => ok(api.POST("/api/accounts/{account}/lead-sources/{source_id}/replay", { params: { path: path.value } })));
  void touched("/lead-sources", "/lead-sources/{source_id}");
}
const label = (name: string) => name.replace("field:", "").replaceAll("_", " ");
const madeJustNow = useMadeAddress();
const address = computed(() => madeJustNow.value[path.value.source_id] ?? "");
const { copy, copied } = useClipboard({ source: address });
const anew = () =>
  sure({
    title: "Make a new address?",
    words: "The one it has now leads nowhere from then on: whoever sends here is to be given the new one. It is shown once.",
    act: "Make a new address",
    yes: () =>
      act(async () => {
        const call = api.POST("/api/accounts/{account}/lead-sources/{source_id}/address", { params: { path: path.value } });
        madeJustNow.value = { ...madeJustNow.value, [path.value.source_id]: (await ok(call)).url };
        void touched("/lead-sources/{source_id}", "/set-up/changes");
      }),
  });
const WHAT_THE_SAMPLE_SAYS_COLUMNS: Column[] = [
  { key: "in_the_sample", label: "In the sample" },
  { key: "says", label: "says", class: "serif value" },
  { key: "is_the_contact_s", label: "Is the contact’s" },
  { key: "taken", label: "Taken" },
];
const WHAT_CAME_COLUMNS: Column[] = [
  { key: "when", label: "When" },
  { key: "state", label: "State", hidesLabel: true },
  { key: "who", label: "Who", class: "serif" },
  { key: "it_said", label: "It said", class: "small" },
];
</script>

<template>
  <ReadState :of="[sourceRead, fieldsRead]" what="This source" missing="There is no such source" page>
    <div v-if="source && matching" class="page">
      <div class="row">
        <NameInPlace :name="source.name" label="Name of the source" :may="true" :keep="rename" /><span v-if="!source.on" class="soft"
          >off: what comes waits</span
        ><span v-else-if="!source.ready" class="thrift"><StateMark is="must" /> match an email or a mobile</span
        ><span v-else class="kelp"><StateMark is="done" /> on</span
        ><span class="soft">{{ source.last ? `last came ${source.last}` : "" }}</span
        ><span class="grow" /><BFormCheckbox v-model="on" class="tick" @change="keep">on</BFormCheckbox>
      </div>
      <p v-if="address" class="row">
        <span class="small soft">Its address, which holds a secret and is shown this once:</span><code>{{ address }}</code
        ><BButton variant="link" class="small" @click="copy()">{{ copied ? "copied" : "copy" }}</BButton>
      </p>
      <p v-else class="row small soft">
        Its address was made {{ source.address_at }}, and is not shown again.
        <BButton variant="link" class="small" @click="anew">Make a new address…</BButton>
      </p>
      <EmptyState v-if="!source.values.length"
        >Waiting for the first one. Have the other system send a test to the address above (JSON or a web form, by POST), or send one from
        Outside; its values appear here by themselves.</EmptyState
      >
      <template v-else>
        <h2>What each value becomes</h2>
        <DataTable caption="What the sample says" :rows="source.values as [string, string][]" :columns="WHAT_THE_SAMPLE_SAYS_COLUMNS">
          <template #in_the_sample="{ item: [at] }"
            ><code>{{ at }}</code></template
          >
          <template #says="{ item: [, value] }">{{ value }}</template>
          <template #is_the_contact_s="{ item: [at] }"
            ><BFormSelect
              :model-value="pointed(at)?.fills ?? ''"
              :aria-label="`What ${at} is`"
              @update:model-value="point(at, String($event))"
              ><option value="">left out</option>
              <option v-for="[name, words] in OWN" :key="name" :value="name">{{ words }}</option>
              <option v-for="one in fields" :key="one.id" :value="`field:${one.name}`">{{ one.name }}</option></BFormSelect
            ></template
          >
          <template #taken="{ item: [at] }"
            ><BFormSelect
              v-if="pointed(at)"
              :model-value="pointed(at)?.how"
              :aria-label="`How ${at} is taken`"
              @update:model-value="change(pointed(at), String($event))"
              ><option v-for="[how, words] in HOW" :key="how" :value="how">{{ words }}</option></BFormSelect
            ></template
          >
        </DataTable>
        <p class="becomes" role="status">
          <span class="soft">The sample would become</span>
          <template v-if="source.fault"
            ><span class="rust"><StateMark is="broken" /> nobody: {{ source.fault }}</span></template
          ><template v-else
            ><template v-for="(value, name, n) in source.understood" :key="name"
              ><template v-if="value"
                >{{ n ? ", " : "" }}<span class="soft">{{ label(String(name)) }}</span> <strong>{{ value }}</strong></template
              ></template
            ></template
          >
        </p>
        <p class="row">
          <FormRow label="Tags they get"
            ><BFormInput
              :model-value="matching.tags?.join(', ')"
              :model-modifiers="{ lazy: true }"
              @update:model-value="
                matching.tags = cut(String($event));
                keep();
              "
          /></FormRow>
          <FormRow label="Lists they come onto"
            ><BFormInput
              :model-value="matching.lists?.join(', ')"
              :model-modifiers="{ lazy: true }"
              @update:model-value="
                matching.lists = cut(String($event));
                keep();
              "
          /></FormRow>
          <DealMade
            :made="matching.deal"
            @change="
              matching.deal = $event;
              keep();
            " />
          <FormRow label="Who is here already"
            ><BFormSelect v-model="matching.duplicates" @change="keep"
              ><option value="fill">fill what is empty</option>
              <option value="overwrite">write over</option>
              <option value="skip">leave as they are</option></BFormSelect
            ></FormRow
          ><BFormCheckbox v-model="matching.trusted" class="tick" @change="keep"
            >it is trusted: what it says changes what is known, undecided</BFormCheckbox
          >
          <FormRow label="They agreed there to"
            ><BFormSelect v-model="matching.consent" @change="keep"
              ><option value="">nothing</option>
              <option value="email">emails</option>
              <option value="text">texts</option></BFormSelect
            ></FormRow
          >
          <FormRow v-if="matching.consent" label="How" class="grow"
            ><BFormInput v-model="matching.consent_evidence" placeholder="the box on the advert’s form" @change="keep"
          /></FormRow>
        </p>
      </template>
      <template v-if="source.leads.length">
        <div class="row">
          <h2>What came</h2>
          <span class="soft small"
            >{{ many(source.taken, "taken", "taken") }}, {{ source.waiting }} waiting, {{ source.failed }} failed</span
          ><BButton v-if="source.waiting + source.failed" variant="outline-primary" :disabled="pending" @click="again"
            >Try {{ source.waiting + source.failed }} again</BButton
          >
        </div>
        <DataTable caption="What came" :rows="source.leads" :columns="WHAT_CAME_COLUMNS">
          <template #when="{ item: one }">{{ one.at }}</template>
          <template #state="{ item: one }"
            ><div :class="one.state === 'taken' ? 'kelp' : one.state === 'failed' ? 'rust' : 'gorse'">
              {{ one.state === "taken" ? "✓ taken" : one.state === "failed" ? "▲ failed" : "◷ waits" }}
              <div v-if="one.reason" class="small">{{ one.reason }}</div>
            </div></template
          >
          <template #who="{ item: one }"
            ><RouterLink v-if="one.contact_id" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{
              one.contact
            }}</RouterLink></template
          >
          <template #it_said="{ item: one }"
            ><template v-for="([at, value], n) in one.values as [string, string][]" :key="at"
              >{{ n ? " · " : "" }}<span class="soft">{{ at }}</span> {{ value }}</template
            ></template
          >
        </DataTable>
      </template>
    </div>
  </ReadState>
</template>

<style scoped>
code {
  font-size: 13px;
  overflow-wrap: anywhere;
}
h2 {
  margin: 18px 0 4px;
}
:deep(.value) {
  max-width: 24rem;
  overflow-wrap: anywhere;
}
.becomes {
  font: 17px/1.5 var(--serif);
  margin: 12px 0;
}
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
