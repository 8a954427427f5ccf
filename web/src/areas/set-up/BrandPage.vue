<script setup lang="ts">
/** The brand: logo, picture, two colours and how they read, lines; and an email, a form and a contact's page in it. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import { useKeeping } from "@/shared/settings/useKeeping";
import WordPart from "@/shared/settings/WordPart.vue";
import { filesOf } from "@/ui/events";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import BrandPreview from "./parts/BrandPreview.vue";
import ColourPart from "./parts/ColourPart.vue";

type Brand = Schemas["BrandOut"];
type Kind = "logo" | "picture";
const account = useAccount();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const touched = useTouched();
const { data: brand, ...read } = useRead("/brand");
const answered = useAnswered("/brand");
const { pending, faults, act } = usePending({ fields: ["colour", "link", "logo", "picture"] });
const change = useKeeping();
const path = computed(() => ({ account: account.value }));
const put = ({ colour, link, line, closing }: Schemas["BrandIn"]) =>
  ok(api.PUT("/api/accounts/{account}/brand", { params: { path: path.value }, body: { colour, link, line, closing } }));
function keep(parts: Partial<Schemas["BrandIn"]>) {
  const before = brand.value;
  if (!before) return;
  change({
    show: () => answered({ ...before, ...parts } as Brand),
    keep: () => act(async () => answered(await put({ ...before, ...parts }))),
    undo: async () => answered(await put(before)),
    after: () => touched("/set-up/changes"),
  });
}
const KINDS: [kind: Kind, words: string, help: string][] = [
  ["logo", "logo", "In the head of emails and pages; 480 by 160 at most."],
  ["picture", "picture", "Below the head of forms and contacts’ pages; 1,200 by 600 at most."],
];
const boxes = ref<Record<string, HTMLInputElement | null>>({});
async function bring(kind: Kind, event: Event) {
  const file = filesOf(event)?.[0];
  if (!file) return;
  const body = new FormData();
  body.append("file", file);
  const call = api.POST("/api/accounts/{account}/brand/{kind}", {
    params: { path: { account: account.value, kind } },
    body: body as unknown as { file: string },
    bodySerializer: (one) => one as unknown as FormData,
  });
  if (await act(async () => answered(await ok(call)))) tell(`The ${kind} is kept.`);
  const box = boxes.value[kind];
  if (box) box.value = "";
  void touched("/set-up/changes");
}
async function drop(kind: Kind) {
  const call = api.DELETE("/api/accounts/{account}/brand/{kind}", { params: { path: { account: account.value, kind } } });
  if (await act(async () => answered(await ok(call)))) tell(`The ${kind} is taken away.`);
  void touched("/set-up/changes");
}
</script>

<template>
  <div class="page">
    <PageHead title="Brand" about="in emails, and on the pages that contacts see" />
    <ReadState :of="read" what="The brand">
      <template v-if="brand">
        <SetHead title="Pictures" first />
        <SetLine v-for="[kind, words, help] in KINDS" :key="kind" :fault="faults[kind]">
          <template v-if="brand[kind]"
            >Its {{ words }} <img :src="brand[kind]" :alt="`The ${words}`" :class="kind" />
            <BButton v-if="may" variant="link" class="small" :disabled="pending" @click="drop(kind)">Take away</BButton></template
          ><template v-else>It has no {{ words }} yet.</template>
          <label v-if="may" class="bring small"
            >{{ brand[kind] ? "Another one" : "Bring one" }}
            <input
              :ref="(box) => (boxes[kind] = box as HTMLInputElement | null)"
              class="visually-hidden"
              type="file"
              accept="image/png,image/jpeg,image/webp,image/gif"
              :aria-label="`Bring a ${words}`"
              :disabled="pending"
              @change="bring(kind, $event)"
          /></label>
          <template #depends>{{ help }} What else is in the file, such as where it was taken, is not kept.</template>
        </SetLine>
        <SetHead title="Colours" />
        <SetLine :fault="faults.colour">
          The head of pages is
          <ColourPart :value="brand.colour || brand.shown" label="Colour of the brand" :disabled="!may" @keep="keep({ colour: $event })" />.
          <template #depends
            >The name stands on it in {{ brand.on === "#ffffff" ? "white" : "ink" }}, with a contrast of {{ brand.as_ground.ratio }} to
            1<template v-if="!brand.as_ground.enough">: <span class="rust">too little to be read by everybody; 4.5 is.</span></template
            ><template v-else>: everybody can read it.</template></template
          >
        </SetLine>
        <SetLine :fault="faults.link">
          Links and buttons are
          <ColourPart
            :value="brand.link || brand.colour || brand.shown"
            label="Colour of links"
            :disabled="!may"
            @keep="keep({ link: $event })" />.
          <template #depends
            ><template v-if="brand.as_words.enough"
              >On paper, its contrast is {{ brand.as_words.ratio }} to 1: everybody can read it.</template
            ><template v-else
              ><span class="rust">On paper, its contrast is {{ brand.as_words.ratio }} to 1, and 4.5 is needed.</span> Pages show
              {{ brand.as_words.instead }} instead.
              <BButton v-if="may" variant="link" class="small" @click="keep({ link: brand.as_words.instead })"
                >Take {{ brand.as_words.instead }}</BButton
              ></template
            ></template
          >
        </SetLine>
        <SetHead title="Words" />
        <SetLine>
          Under the name stands
          <WordPart
            :value="brand.line"
            label="Line under the name"
            empty="nothing"
            :most="120"
            :disabled="!may"
            @keep="keep({ line: $event })" />.
        </SetLine>
        <SetLine>
          Emails close with
          <WordPart
            :value="brand.closing"
            label="Closing lines"
            long
            empty="the name and the postal address alone"
            :most="300"
            :disabled="!may"
            @keep="keep({ closing: $event })" />.
          <template #depends>Above the postal address, under every email.</template>
        </SetLine>
        <SetHead title="So it looks" />
        <BrandPreview :brand="brand" />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
img {
  vertical-align: middle;
  max-height: 40px;
  max-width: 160px;
  margin: 0 6px;
}
.bring {
  display: inline;
  color: var(--sea);
  border-bottom: 1px solid var(--sea);
  cursor: pointer;
  margin-left: 10px;
  font-family: var(--sans);
}
.bring:focus-within {
  outline: 2px solid var(--sea);
  outline-offset: 2px;
}
</style>
