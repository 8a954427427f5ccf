<script setup lang="ts">
/** What is kept about deals besides worth, date and whose they are: fields of the account's own. */
import { computed, reactive } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import FormRow from "@/ui/FormRow.vue";
import { sure } from "@/ui/sure";
import { usePending } from "@/ui/usePending";
import { cut, many } from "@/ui/words";

defineProps<{ may: boolean }>();
const account = useAccount();
const { data } = useRead("/set-up/deal-fields");
const answered = useAnswered("/set-up/deal-fields");
const { kinds, kindOf } = useFieldKinds();
const { pending, act } = usePending({ inTurn: true });
const path = computed(() => ({ account: account.value }));
const form = reactive({ name: "", kind: "text" as Schemas["DealFieldIn"]["kind"], choices: "" });
async function make() {
  const body = { name: form.name, kind: form.kind, choices: cut(form.choices) };
  const made = await act(async () =>
    answered(await ok(api.POST("/api/accounts/{account}/set-up/deal-fields", { params: { path: path.value }, body }))),
  );
  if (made) Object.assign(form, { name: "", choices: "" });
}
const drop = (one: Schemas["DealFieldOut"]) =>
  act(async () =>
    answered(
      await ok(
        api.DELETE("/api/accounts/{account}/set-up/deal-fields/{field_id}", { params: { path: { ...path.value, field_id: one.id } } }),
      ),
    ),
  );
const ask = (one: Schemas["DealFieldOut"]) =>
  one.filled
    ? sure({
        title: `Take away the field “${one.name}”`,
        act: "Take it away",
        words: `What ${many(one.filled, "deal says", "deals say")} in it would be gone for good.`,
        yes: () => drop(one),
      })
    : void drop(one);
</script>

<template>
  <SetHead title="What is kept about a deal" />
  <SetLine v-for="one in data?.fields" :key="one.id"
    ><b>{{ one.name }}</b
    >, {{ kindOf(one.kind)?.label }}{{ one.choices.length ? `: ${one.choices.join(", ")}` : "" }}.
    <template #depends
      >{{ many(one.filled, "deal")
      }}<template v-if="may">
        ·
        <BButton variant="link" class="small" :aria-label="`Take it away: ${one.name}`" :disabled="pending" @click="ask(one)"
          >Take it away</BButton
        ></template
      ></template
    ></SetLine
  >
  <SetLine v-if="data && !data.fields.length">Worth, when it is expected and whose it is, and no field of your own yet.</SetLine>
  <form v-if="may" class="row new" @submit.prevent="make">
    <FormRow label="One more field for deals"><BFormInput v-model.trim="form.name" maxlength="80" /></FormRow>
    <FormRow label="What it holds"
      ><BFormSelect v-model="form.kind"
        ><option v-for="kind in kinds" :key="kind.name" :value="kind.name">{{ kind.label }}</option></BFormSelect
      ></FormRow
    >
    <FormRow v-if="kindOf(form.kind)?.own_choices" label="Choices, by comma"
      ><BFormInput v-model.trim="form.choices" maxlength="2000"
    /></FormRow>
    <BButton variant="outline-primary" type="submit" :disabled="pending || !form.name">Add it</BButton>
  </form>
</template>

<style scoped>
.new {
  align-items: end;
  margin: 10px 0 4px;
  flex-wrap: wrap;
}
</style>
