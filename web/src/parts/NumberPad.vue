<script setup lang="ts">
import { $t } from '@/lib/say'

/** Keys for a figure, for hands in gloves. */
const emit = defineEmits<{ key: [key: string] }>()
</script>

<template>
  <div class="pad" role="group" :aria-label="$t('Number pad')">
    <button
      v-for="k in ['7', '8', '9', '4', '5', '6', '1', '2', '3', '.', '0', '⌫']"
      :key="k"
      type="button"
      :aria-label="k === '⌫' ? $t('delete') : k"
      @click="emit('key', k)"
    >
      {{ k }}
    </button>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.pad button {
  min-height: 48px;
  font: 600 20px var(--figures);
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
}
</style>
