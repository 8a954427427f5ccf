<script setup lang="ts">
/** How figures are counted, for who asks. */
</script>

<template>
  <details class="small">
    <summary>How this is counted</summary>
    <p>
      What comes of a message is added to the day of the message, and an aim to the day of coming in, once each: so days add up, and a day
      can still grow. An aim is counted within its time; a booking or an opt-out as coming of the last message before it, for 30 days.
      Clicks of link checkers are left out. Opens are not counted: mail programs fetch pictures by themselves, so that they say nothing of
      readers.
    </p>
    <p>
      In brackets: where the truth lies 95 times of 100 (Wilson’s interval; for differences Newcombe’s). Where that spans more than thirty
      in a hundred, too few are known to tell.
    </p>
  </details>
</template>

<style scoped>
details {
  max-width: 52em;
  color: var(--soft);
  margin: 8px 0;
}
p {
  margin: 4px 0;
}
</style>
