<script setup lang="ts">
import type { BoltMark } from './bolts'

/** One bolt on the map. Its form says how it stands: dashed, filled, barred, hollow. */
defineProps<{ x: number; y: number; r: number; mark: BoltMark; next?: boolean; picked?: boolean; text?: string }>()
</script>

<template>
  <g :class="['dot', mark, { next, picked }]" :transform="`translate(${x} ${y})`">
    <circle v-if="next || picked" :r="r * 1.45" class="halo" />
    <circle :r="r" class="head" />
    <path v-if="mark === 'fails'" :d="`M${-r * 0.6} 0h${r * 1.2}`" class="bar" />
    <path v-else-if="mark === 'doubt'" :d="`M0 ${-r}A${r} ${r} 0 0 1 0 ${r}Z`" class="half" />
    <circle v-else-if="mark === 'hand'" :r="r * 0.35" class="core" />
    <text v-if="text && mark !== 'fails'" :y="r * 0.38" :style="{ fontSize: `${r * 1.1}px` }">{{ text }}</text>
  </g>
</template>

<style scoped>
.head {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.waits .head {
  stroke-dasharray: 3 3;
}
.holds .head {
  fill: var(--jade);
}
.fails .head {
  fill: var(--plum);
}
.bar {
  stroke: var(--on-dark);
  stroke-width: 4;
  vector-effect: non-scaling-stroke;
}
.half {
  fill: var(--copper);
}
.core {
  fill: var(--ink);
}
.halo {
  fill: none;
  stroke: var(--copper);
  stroke-width: 4;
  vector-effect: non-scaling-stroke;
}
.picked .halo {
  stroke: var(--ink);
  stroke-width: 2;
}
.next .halo {
  stroke: var(--copper);
  stroke-width: 4;
}
text {
  font: 700 20px var(--figures);
  text-anchor: middle;
  fill: var(--ink);
}
.holds text {
  fill: var(--on-dark);
}
</style>
