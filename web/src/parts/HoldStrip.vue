<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, useTemplateRef } from 'vue'
import { useDrawnWidth } from '@/lib/drawn'
import { scaleLinear } from 'd3-scale'
import { bare, withUnit } from '@/state/units'

/** What holds against what pulls: shape solid, what is lent (friction, straps) dashed. */
export interface Strip {
  name: string
  v: number
  fill: string
  /** Lent, not held. */
  lent?: boolean
}
const props = withDefaults(
  defineProps<{ strips: Strip[]; peak: number; asked: number; askedWords: string; unit?: string; against?: string }>(),
  { unit: 'N·m', against: $t('motor peak') },
)
const el = useTemplateRef('el')
const W = useDrawnWidth(el, 690)
const parts = computed(() => props.strips.filter((p) => p.v > 0))
const total = computed(() =>
  Math.max(
    parts.value.reduce((a, p) => a + p.v, 0),
    props.peak * props.asked * 1.1,
  ),
)
const scale = computed(() => scaleLinear([0, total.value], [0, W.value]))
const placed = computed(() => {
  let x = 0
  return parts.value.map((p) => {
    const r = { ...p, x: scale.value(x), w: scale.value(p.v) }
    x += p.v
    return r
  })
})
const label = computed(
  () =>
    `${parts.value.map((p) => `${p.name} ${withUnit(p.v, props.unit)}`).join(', ')}; ${props.against} ${withUnit(props.peak, props.unit)}`,
)
</script>

<template>
  <svg ref="el" :viewBox="`-2 0 ${W + 4} 104`" role="img" :aria-label="label">
    <g v-for="p in placed" :key="p.name">
      <rect
        :x="p.x"
        y="26"
        :width="p.w"
        height="34"
        :fill="p.fill"
        stroke="var(--ink)"
        :stroke-dasharray="p.lent ? '6 4' : undefined"
      />
      <text
        v-if="p.w > p.name.length * 7.2 + 40"
        :x="p.x + p.w / 2"
        y="48"
        :class="['t', { on: p.fill === 'var(--jade)' }]"
      >
        {{ p.name }} {{ bare(p.v, unit) }}
      </text>
      <text v-else-if="p.w > 38" :x="p.x + p.w / 2" y="48" :class="['t', { on: p.fill === 'var(--jade)' }]">
        {{ bare(p.v, unit) }}
      </text>
    </g>
    <path :d="`M${scale(peak)} 18V68`" stroke="var(--plum)" stroke-width="3" />
    <text :x="Math.min(W - 70, scale(peak))" y="13" class="t b stop">{{ against }} {{ withUnit(peak, unit) }}</text>
    <path :d="`M${scale(peak * asked)} 20V74`" stroke="var(--copper)" stroke-width="2.5" stroke-dasharray="4 3" />
    <text :x="Math.min(W - 90, scale(peak * asked))" y="90" class="t attend">
      {{ askedWords }}, {{ bare(peak * asked, unit) }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  height: auto;
  display: block;
}
.t {
  font: 400 13.5px var(--words);
  text-anchor: middle;
  fill: var(--ink);
}
.on {
  fill: var(--on-dark);
}
.b {
  font-weight: 700;
}
.stop {
  fill: var(--plum-text);
}
.attend {
  fill: var(--copper-text);
}
</style>
