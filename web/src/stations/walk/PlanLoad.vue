<script setup lang="ts">
import { $t } from '@/lib/say'

/** A pack or the load on the footprint, to be dragged or moved by arrow keys. */
defineProps<{
  l: { id: string; name: string; x: number; y: number; cargo: boolean }
  back: number
  words: string
}>()
</script>

<template>
  <g
    class="load"
    :class="{ cargo: l.cargo }"
    role="slider"
    tabindex="0"
    :aria-label="$t('{name}, moved by arrow keys', { name: l.name })"
    aria-valuemin="-1200"
    aria-valuemax="1200"
    :aria-valuenow="back"
    :aria-valuetext="words"
    :data-test="`plan-${l.cargo ? 'load' : 'pack'}`"
  >
    <rect :x="l.x - (l.cargo ? 34 : 22)" :y="l.y - 22" :width="l.cargo ? 68 : 44" height="44" />
    <text :x="l.x" :y="l.y + 4" text-anchor="middle">{{ l.name }}</text>
  </g>
</template>

<style scoped>
text {
  font: 400 13px var(--words);
  fill: var(--ink);
}
.load {
  cursor: grab;
}
.load rect {
  fill: var(--hide);
  stroke: var(--ink);
  stroke-width: 2;
}
.cargo rect {
  fill: var(--panel);
  fill-opacity: 0.85;
}
.load:focus-visible {
  outline: none;
}
.load:focus-visible rect {
  stroke: var(--copper);
  stroke-width: 4;
}
</style>
