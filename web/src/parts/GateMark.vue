<script setup lang="ts">
import { computed } from 'vue'
import type { Mark } from '@/lib/words'

/**
 * The mark of a state: a pair of leaves between posts. Open: both swung out.
 * Ajar: one swung. Held: closed, a bar across. Shut: closed and filled. Not
 * begun: dashed. The position says it; the colour only helps.
 */
const props = defineProps<{ state: Mark | string; size?: number; label?: string; onPine?: boolean }>()
const w = computed(() => props.size ?? 24)
</script>

<template>
  <svg
    :class="['gate-mark', state, { pine: onPine }]"
    :width="w"
    :height="w * 0.84"
    viewBox="0 0 38 32"
    :role="label ? 'img' : undefined"
    :aria-label="label"
    :aria-hidden="label ? undefined : true"
  >
    <path class="post" d="M2 3v26M36 3v26" />
    <template v-if="state === 'open'">
      <path class="leaf" d="M2 6l9 4v14l-9 4zM36 6l-9 4v14l9 4z" />
    </template>
    <template v-else-if="state === 'ajar'">
      <path class="leaf" d="M2 6l9 4v14l-9 4z" />
      <path class="leaf plain" d="M20 6h16v21H20z" />
    </template>
    <template v-else-if="state === 'held'">
      <path class="leaf plain" d="M2 6h16.5v21H2zM19.5 6H36v21H19.5z" />
      <path class="bar" d="M10 16.5h18" />
    </template>
    <template v-else-if="state === 'shut'">
      <path class="leaf" d="M2 6h16.5v21H2zM19.5 6H36v21H19.5z" />
    </template>
    <template v-else>
      <path class="leaf dashed" d="M2 6h16.5v21H2zM19.5 6H36v21H19.5z" />
    </template>
  </svg>
</template>

<style scoped>
.gate-mark {
  flex: none;
  overflow: visible;
  --mark-ink: var(--ink);
}
.pine {
  --mark-ink: var(--pine-ink);
}
.post {
  stroke: var(--mark-ink);
  stroke-width: 2.4;
  fill: none;
}
.leaf {
  stroke: var(--mark-ink);
  stroke-width: 1.8;
  fill: none;
}
.open .leaf,
.ajar .leaf:not(.plain) {
  fill: var(--jade);
}
.shut .leaf {
  fill: var(--plum);
}
.dashed {
  stroke-dasharray: 2.5 2.5;
}
.bar {
  stroke: var(--copper);
  stroke-width: 5;
}
</style>
