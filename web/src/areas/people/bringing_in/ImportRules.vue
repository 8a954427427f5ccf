<script setup lang="ts">
/** What becomes of who is here already, what the people of a file agreed to, and what all of them get. */
import type { Schemas } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";

defineProps<{ beside: Schemas["BesideOut"][] }>();
const settings = defineModel<Schemas["ImportSettings"]>("settings", { required: true }); // reactive: changed in place
const tag = defineModel<string>("tag", { required: true });
const list = defineModel<string>("list", { required: true });
</script>

<template>
  <fieldset>
    <legend>Who is here already, by email or number</legend>
    <BFormRadio
      v-for="[mode, words] in [
        ['fill', 'fill what is empty'],
        ['overwrite', 'write over what is there'],
        ['skip', 'leave them as they are'],
      ] as const"
      :key="mode"
      v-model="settings.duplicates"
      class="tick"
      :value="mode"
      name="settings-duplicates"
      >{{ words }}</BFormRadio
    >
    <FormRow label="Who has the number of somebody here, but a name and an email of their own" class="wide"
      ><BFormSelect v-model="settings.shared_number">
        <option value="leave">is left for me to decide: the row is told of, and does not come in</option>
        <option value="apart">is somebody else: comes in, without the number</option>
        <option value="same">is the same person</option>
      </BFormSelect></FormRow
    >
  </fieldset>
  <fieldset>
    <legend>What these people agreed to</legend>
    <BFormCheckbox v-model="settings.consent_channels" class="tick" value="email">to emails</BFormCheckbox>
    <BFormCheckbox v-model="settings.consent_channels" class="tick" value="text">to texts</BFormCheckbox>
    <template v-if="settings.consent_channels?.length">
      <FormRow label="How and when they said so"
        ><BFormInput v-model="settings.consent_evidence" maxlength="400" placeholder="Sign-up sheet at the summer fair, 12 July"
      /></FormRow>
      <FormRow label="In answer to these words, if you have them"
        ><BFormTextarea v-model="settings.consent_wording" rows="2" maxlength="500"
      /></FormRow>
    </template>
    <p v-else class="small soft">Nothing is stated: they are written to only where this account writes until people object.</p>
  </fieldset>
  <fieldset>
    <legend>All of them get</legend>
    <div v-for="one in beside" :key="one.name">
      <FormRow :label="`Each ${one.name} stands on`"
        ><BFormSelect v-model="(settings.places ??= {})[one.name]">
          <option v-for="place in one.places" :key="place" :value="place">{{ place }}</option>
        </BFormSelect></FormRow
      >
    </div>
    <FormRow label="Tags"><BFormInput v-model="tag" placeholder="summer fair" /></FormRow>
    <FormRow label="Lists"><BFormInput v-model="list" /></FormRow>
  </fieldset>
</template>

<style scoped>
label:not(.tick),
label:not(.tick) input {
  width: 100%;
}
.tick {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
