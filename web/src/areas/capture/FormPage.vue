<script setup lang="ts">
/** One form: its questions at the left, at the right the page as it will be; its address, code and flyer; its answers. */
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useSubject } from "@/router/titles";
import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import NameInPlace from "@/ui/NameInPlace.vue";
import { plain } from "@/sentences/written";
import FormFill from "@/shared/FormFill.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import FormAnswers from "./FormAnswers.vue";
import FormDesign from "./FormDesign.vue";
import FormPaper from "./FormPaper.vue";

type Design = Schemas["FormDesign"];
const account = useAccount();
const route = useRoute();
const touched = useTouched();
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const id = computed(() => Number(route.params.form));
const path = computed(() => ({ account: account.value, form_id: id.value }));
const { data: form, ...formRead } = useRead("/forms/{form_id}", () => ({ path: path.value }), { refetchOnWindowFocus: false });
useSubject(() => form.value?.name);
const fieldsRead = useRead("/fields");
const brandRead = useRead("/brand");
const suggestedRead = useRead("/forms/consent-words");

// ---- the design: kept by itself a moment after each change
const design = ref<Design>();
const open = ref(true);
const state = ref<"kept" | "keeping" | "failed">("kept");
const fault = ref("");
const problem = ref("");
watch(
  form,
  (now) => {
    if (!now || design.value) return;
    design.value = plain(now.design) as Design;
    open.value = now.open;
    problem.value = now.problem;
  },
  { immediate: true },
);
let timer = 0;
watch(
  [design, open],
  (_, before) => {
    if (!before[0] || !form.value || !may.value) return;
    state.value = "keeping";
    window.clearTimeout(timer);
    timer = window.setTimeout(keep, 400);
  },
  { deep: true },
);
async function keep() {
  if (!design.value || !form.value) return;
  try {
    const kept = await ok(
      api.PUT("/api/accounts/{account}/forms/{form_id}", {
        params: { path: path.value },
        body: { design: design.value, open: open.value },
      }),
    );
    state.value = "kept";
    problem.value = kept.problem;
  } catch (error) {
    state.value = "failed";
    fault.value = (error as Error).message;
  }
}
async function rename(name: string) {
  await ok(api.PUT("/api/accounts/{account}/forms/{form_id}/name", { params: { path: path.value }, body: { name } }));
  await touched("/forms/{form_id}", "/forms");
}
const which = ref<"taken" | "spam" | "test">("taken");
const trying = ref(false);
const said = ref("");
const code = (format: string) => `/api/accounts/${account.value}/forms/${id.value}/code.${format}`;
</script>

<template>
  <ReadState :of="[formRead, fieldsRead, brandRead, suggestedRead]" what="This form" missing="There is no such form" page>
    <div v-if="form && design" class="page">
      <div class="row">
        <NameInPlace :name="form.name" label="Name of the form" :may="may" :keep="rename" /><span
          role="status"
          :class="state === 'kept' ? 'soft' : state === 'keeping' ? 'gorse' : 'rust'"
          >{{ state === "failed" ? `not kept: ${fault}` : state === "keeping" ? "keeping…" : "kept" }}</span
        ><span class="grow" /><BFormCheckbox v-if="may" v-model="open" class="tick">open</BFormCheckbox>
      </div>
      <p v-if="problem" class="gorse"><StateMark is="waits" /> {{ problem }}</p>
      <p v-if="!form.for_team" class="row where">
        <a :href="form.link" target="_blank" rel="noopener">{{ form.link }}</a><span class="soft small"
          >QR code: <a :href="code('svg')" target="_blank">SVG</a>, <a :href="code('png')" target="_blank">PNG</a>,
          <a :href="code('pdf')" target="_blank">flyer to print</a></span
        >
      </p>
      <div class="two">
        <FormDesign v-model="design" :may="may" :for-team="form.for_team" />
        <div>
          <p class="small soft">
            As it will be<template v-if="!form.for_team">, at <a :href="form.link" target="_blank" rel="noopener">its page</a></template>
          </p>
          <FormPaper :design="design" :name="form.name" />
          <p class="row">
            <BButton v-if="may && !problem" variant="link" @click="trying = !trying">{{
              trying ? "Close the test" : "Send it once as a test"
            }}</BButton><span v-if="said" class="kelp small"><StateMark is="done" /> {{ said }}</span>
          </p>
          <FormFill
            v-if="trying"
            :form="id"
            @done="
              trying = false;
              said = 'It came in as a test; nobody was added.';
              which = 'test';
              touched('/forms/{form_id}', '/forms');
            " />
        </div>
      </div>
      <FormAnswers v-model="which" :form="form" />
    </div>
  </ReadState>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.25fr) minmax(0, 1fr);
  gap: 36px;
  border-top: 1px solid var(--ink);
  padding-top: 14px;
}
.where a {
  display: inline-block;
  padding-block: 4px; /* 24 px to hit */
}
.where {
  align-items: baseline;
  gap: 20px;
}
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 4px 0;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
  .where a {
    overflow-wrap: anywhere;
  }
}
</style>
