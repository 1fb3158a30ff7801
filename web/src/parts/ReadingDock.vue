<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { ref, useId } from 'vue'

/**
 * What is being read: a panel beside the work and, where there is no room beside it, a sheet at the foot of the
 * screen, within reach wherever one has scrolled to.
 */
defineProps<{ title: string; about?: string; test?: string }>()
const low = useMediaQuery('(max-width: 1040px)')
const up = ref(false)
const body = useId()
defineExpose({ show: () => (up.value = true) })
</script>

<template>
  <section :class="['panel', 'dock', { low, up }]" :data-test="test ?? 'dock'">
    <header>
      <h2>{{ title }}</h2>
      <span v-if="about" class="small">{{ about }}</span>
      <slot name="head" />
      <button
        v-if="low"
        type="button"
        class="plain"
        :aria-expanded="up"
        :aria-controls="body"
        data-test="dock-open"
        @click="up = !up"
      >
        {{ up ? $t('Put away') : $t('Read it') }}
      </button>
    </header>
    <div v-show="!low || up" :id="body" class="body"><slot /></div>
  </section>
</template>

<style scoped>
.body {
  display: grid;
  gap: 8px;
}
.low {
  position: fixed;
  left: 116px;
  right: 0;
  bottom: 0;
  z-index: 20;
  max-height: min(78vh, 640px);
  overflow: auto;
  border-width: 2px 0 0;
  border-color: var(--ink);
  border-radius: 0;
  padding: 6px 18px;
}
.low > header {
  margin: 0;
  align-items: center;
  min-height: 48px;
}
.low.up > .body {
  padding-bottom: 10px;
}
@media (max-width: 760px) {
  .low {
    left: 0;
    padding: 4px 12px;
  }
}
@media print {
  .dock {
    display: none;
  }
}
</style>
