<script setup lang="ts">
/** One sentence of a setting, and beside it what depends on it. What was wrong with it stands under it. */
defineProps<{ fault?: string }>();
</script>

<template>
  <div class="set-line">
    <div class="said serif" :class="{ wrong: fault }">
      <slot /><small v-if="fault" class="rust" role="alert">{{ fault }}</small>
    </div>
    <div class="depends"><slot name="depends" /></div>
  </div>
</template>

<style scoped>
.set-line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 310px;
  column-gap: 26px;
}
.said {
  font-size: 17px;
  line-height: 1.75;
  border-bottom: 1px solid var(--rule);
  padding: 4px 0 5px;
}
.said small {
  display: block;
  font-family: var(--sans);
}
.set-line:focus-within .said,
.set-line:focus-within .depends {
  background: var(--mist);
}
.set-line:focus-within .said {
  box-shadow: -3px 0 0 var(--sea);
}
.depends {
  font-size: 13px;
  line-height: 1.5;
  border-bottom: 1px solid var(--rule);
  padding: 8px 0 6px;
}
@media (max-width: 1000px) {
  .set-line {
    grid-template-columns: minmax(0, 1fr);
  }
  .said {
    border-bottom: 0;
  }
  .depends {
    padding-top: 0;
  }
  .depends:empty {
    padding: 0;
  }
}
</style>
