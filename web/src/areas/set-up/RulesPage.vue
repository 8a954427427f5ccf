<script setup lang="ts">
/** House rules: what a workflow should not be, and how messages go out; each with the workflows that keep or break it. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { many } from "@/ui/words";
import LimitLines from "./parts/LimitLines.vue";
import OfWorkflows from "./parts/OfWorkflows.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import { useCare, type Care } from "./useCare";

const { care, careRead, keep, faults, may } = useCare();
const { data: rules, ...rulesRead } = useRead("/set-up/rules", undefined, { live: true });
type RuleName = NonNullable<Care["refuses"]>[number];
const COUNTED: { name: "longest_days" | "most_touches" | "most_text_parts"; before: string; one: string; several: string; most: number }[] =
  [
    { name: "longest_days", before: "A workflow takes at most", one: "day", several: "days", most: 3660 },
    { name: "most_touches", before: "It has at most", one: "touch", several: "touches", most: 500 },
    { name: "most_text_parts", before: "A text is sent in at most", one: "part", several: "parts", most: 10 },
  ];
const SAYS = [
  { value: "", words: "need not say" },
  { value: "yes", words: "says" },
];
const STRICT = [
  { value: "warns", words: "warns" },
  { value: "refuses", words: "is not published" },
];
const refuses = computed(() => care.value?.refuses ?? []);
const broken = (name: RuleName) => rules.value?.rules.find((one) => one.name === name)?.broken ?? [];
const strictness = (name: RuleName) => (refuses.value.includes(name) ? "refuses" : "warns");
const setStrict = (name: RuleName, value: string) =>
  keep({ refuses: value === "refuses" ? [...refuses.value, name] : refuses.value.filter((one) => one !== name) });
const number = (typed: string) => (typed.trim() === "" ? null : Number(typed));
const isSet = (name: RuleName) => !!care.value?.[name];
const pause = computed<Partial<NonNullable<Care["pause"]>>>(() => care.value?.pause ?? {});
const setPause = (what: { shortest?: number; longest?: number }) => {
  const next = { shortest: pause.value.shortest ?? 0, longest: pause.value.longest ?? 0, ...what };
  if (next.shortest > next.longest) next[what.longest === undefined ? "longest" : "shortest"] = what.longest ?? next.shortest;
  return keep({ pause: next });
};
type Pace = NonNullable<Care["pace"]>[string];
const paces = computed(() => Object.entries<Pace | undefined>({ "": undefined, ...care.value?.pace }));
const setPace = (sender: string, each_minute: number | null) => {
  const { [sender]: now, ...others } = care.value?.pace ?? {};
  return keep({ pace: each_minute ? { ...others, [sender]: { burst: 1, ...now, each_minute } } : others });
};
</script>

<template>
  <div class="page">
    <PageHead title="House rules" about="what holds for every workflow of this account" />
    <ReadState :of="[careRead, rulesRead]" what="The house rules">
      <template v-if="care && rules">
        <SetHead title="When it is written" first />
        <SetLine v-for="rule in COUNTED" :key="rule.name" :fault="faults[rule.name]">
          {{ rule.before }}
          <WordPart
            :value="care[rule.name] ?? null"
            type="number"
            :label="`${rule.before} … ${rule.several}`"
            empty="any"
            :least="1"
            :most="rule.most"
            :disabled="!may"
            @keep="keep({ [rule.name]: number($event) })" />
          {{ care[rule.name] === 1 ? rule.one : rule.several }}{{ isSet(rule.name) ? "; one that does not keep it" : "." }}
          <template v-if="isSet(rule.name)"
            ><WordPart
              :value="strictness(rule.name)"
              :label="`${rule.before}: who does not keep it`"
              :choices="STRICT"
              :disabled="!may"
              @keep="setStrict(rule.name, $event)" />.</template
          >
          <template #depends
            ><template v-if="!isSet(rule.name)">No limit is set.</template
            ><span v-else-if="broken(rule.name).length" class="gorse"
              >{{ broken(rule.name).length }} of {{ many(rules.workflows, "workflow") }} break it:
              <OfWorkflows :of="broken(rule.name)" />.</span
            ><template v-else-if="rules.workflows">Kept by all {{ many(rules.workflows, "workflow") }}.</template></template
          >
        </SetLine>
        <SetLine :fault="faults.first_text_says_who">
          The first text
          <WordPart
            :value="care.first_text_says_who ? 'yes' : ''"
            label="The first text says who writes"
            :choices="SAYS"
            :disabled="!may"
            @keep="keep({ first_text_says_who: $event === 'yes' })" />
          who writes{{ care.first_text_says_who ? "; a workflow whose first text does not" : "." }}
          <template v-if="care.first_text_says_who"
            ><WordPart
              :value="strictness('first_text_says_who')"
              label="A first text that does not say who writes"
              :choices="STRICT"
              :disabled="!may"
              @keep="setStrict('first_text_says_who', $event)" />.</template
          >
          <template #depends
            ><template v-if="care.first_text_says_who"
              ><span v-if="broken('first_text_says_who').length" class="gorse"
                >{{ broken("first_text_says_who").length }} of {{ many(rules.workflows, "workflow") }} do not:
                <OfWorkflows :of="broken('first_text_says_who')" />.</span
              ><template v-else>So do all {{ many(rules.workflows, "workflow") }} that text.</template></template
            ></template
          >
        </SetLine>
        <LimitLines :limits="care.limits ?? []" :fault="faults.limits" :may="may" @keep="keep({ limits: $event })" />
        <SetHead title="How fast" />
        <SetLine :fault="faults.pause">
          Each message that goes out by itself waits
          <WordPart
            :value="pause.shortest ?? 0"
            type="number"
            label="Shortest pause, seconds"
            :most="3600"
            :disabled="!may"
            @keep="setPause({ shortest: Number($event) })" />
          to
          <WordPart
            :value="pause.longest ?? 0"
            type="number"
            label="Longest pause, seconds"
            :most="3600"
            :disabled="!may"
            @keep="setPause({ longest: Number($event) })" />
          seconds, so that it does not feel mechanical.
        </SetLine>
        <SetLine v-for="[sender, pace] in paces" :key="sender" :fault="sender ? '' : faults.pace">
          {{ sender || (paces.length > 1 ? "Every other sender" : "Each sender") }} hands over at most
          <WordPart
            :value="pace?.each_minute ?? null"
            type="number"
            :label="`Messages a minute, ${sender || 'each sender'}`"
            empty="any"
            :most="1000000"
            :disabled="!may"
            @keep="setPace(sender, number($event))" />
          messages a minute.
          <template #depends>What is over it waits in the outbox, in its order.</template>
        </SetLine>
        <SetHead title="Links in emails" />
        <SetLine :fault="faults.link_source || faults.link_medium || faults.link_campaign">
          They are tagged with the source
          <WordPart
            :value="care.link_source ?? ''"
            label="Source of links"
            empty="nothing"
            :most="120"
            :disabled="!may"
            @keep="keep({ link_source: $event })" />, the medium
          <WordPart
            :value="care.link_medium ?? ''"
            label="Medium of links"
            empty="nothing"
            :most="120"
            :disabled="!may"
            @keep="keep({ link_medium: $event })" />
          and the campaign
          <WordPart
            :value="care.link_campaign ?? ''"
            label="Campaign of links"
            empty="the message’s name"
            :most="120"
            :disabled="!may"
            @keep="keep({ link_campaign: $event })" />.
          <template #depends
            ><template v-if="care.link_source || care.link_medium || care.link_campaign"
              >For the web analytics of the site they lead to; links that are tagged already are left.</template
            ><template v-else>With a source or a medium, every link in an email is tagged; as it stands, none is.</template></template
          >
        </SetLine>
      </template>
    </ReadState>
  </div>
</template>
