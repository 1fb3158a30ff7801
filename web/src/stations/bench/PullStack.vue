<script setup lang="ts">
import { $t } from '@/lib/say'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'
import type { Schemas } from '@/api/client'
import { term, figure } from '@/lib/words'

/** The pulls laid over one another from the lever's edge. */
const props = defineProps<{ pulls: Schemas['Pulls']; picked: number | null }>()
const emit = defineEmits<{ pick: [i: number | null] }>()
/** Drawn at the width that there is, so that its words keep their size on a phone. */
const box = useTemplateRef('box')
const { width } = useElementSize(box)
const W = computed(() => Math.max(300, Math.min(900, Math.round(width.value || 760))))
const H = computed(() => (W.value < 500 ? 280 : 360))
const steps = computed(() => (W.value < 500 ? [0, 200, 400, 600] : [-100, 0, 100, 200, 300, 400, 500, 600]))
const L = 62
const B = 44
const shown = computed(() =>
  (props.pulls.curves ?? [])
    .map((c, i) => ({ c, e: props.pulls.analysis.events![i]!, i }))
    .filter((x) => x.e.result === 'cut' || x.e.result === 'no_cut'),
)
const x = computed(() => scaleLinear([-150, 600], [L, W.value - 22]))
const top = computed(() => Math.max(3, ...shown.value.flatMap((s) => s.c.a ?? [])) * 1.12)
const y = computed(() => scaleLinear([0, top.value], [H.value - B, 16]).nice())
const path = (c: Schemas['Curve']) =>
  line<number>()
    .x((_, k) => x.value(c.ms![k]!))
    .y((_, k) => y.value(Math.max(0, c.a![k]!)))(c.ms!) ?? ''
const limit = computed(() => props.pulls.limit_ms)
function kind(e: Schemas['Event']) {
  if (e.late) return 'late'
  return e.lever
}
const worst = computed(() => shown.value.filter((s) => s.e.late)[0])
const numberOf = (i: number) => {
  const e = props.pulls.analysis.events![i]!
  return props.pulls.analysis.events!.filter((o, k) => o.lever === e.lever && k <= i).length
}
const label = computed(() =>
  $t('Current after the lever switches, {n} judged pulls; limit {limit} ms', {
    n: shown.value.length,
    limit: limit.value,
  }),
)
</script>

<template>
  <svg ref="box" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="label">
    <defs>
      <pattern id="late-hatch" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="8" height="8" fill="var(--copper-pale)" />
        <path d="M0 0v8" stroke="var(--copper)" opacity="0.35" stroke-width="1.4" />
      </pattern>
    </defs>
    <rect :x="x(0)" y="16" :width="x(limit) - x(0)" :height="H - B - 16" fill="var(--jade-pale)" opacity="0.6" />
    <rect :x="x(limit)" y="16" :width="W - 22 - x(limit)" :height="H - B - 16" fill="url(#late-hatch)" />
    <g v-for="t in y.ticks(5)" :key="t">
      <path :d="`M${L} ${y(t)}H${W - 22}`" stroke="var(--line)" />
      <text :x="L - 10" :y="y(t) + 5" class="t end num">{{ t }}</text>
    </g>
    <text v-for="t in steps" :key="t" :x="x(t)" :y="H - B + 18" class="t mid num">
      {{ t }}
    </text>
    <text :x="(L + W) / 2" :y="H - 6" class="t mid">{{ $t('milliseconds after the lever switches') }}</text>
    <text :transform="`translate(16 ${H / 2}) rotate(-90)`" class="t mid">{{ $t('battery current, A') }}</text>
    <path
      v-for="s in shown"
      :key="s.i"
      :d="path(s.c)"
      :class="['curve', kind(s.e), { dim: picked !== null && picked !== s.i, on: picked === s.i }]"
      @mouseenter="emit('pick', s.i)"
      @mouseleave="emit('pick', null)"
    />
    <path :d="`M${x(0)} 10V${H - B}`" stroke="var(--ink)" stroke-width="3" />
    <text v-if="W >= 500" :x="x(0) + 8" y="30" class="t">{{ $t('lever switches') }}</text>
    <path :d="`M${x(limit)} 10V${H - B}`" stroke="var(--copper-text)" stroke-width="2.5" stroke-dasharray="5 4" />
    <text :x="x(limit) + 8" y="30" class="t">{{ $t('house limit {limit}', { limit }) }}</text>
    <text v-if="worst" :x="W - 14" :y="y(top * 0.55)" class="t end late b">
      {{ term(worst.e.lever) }}{{ W >= 500 ? $t(', pull') : '' }} {{ numberOf(worst.i) }}:
      {{ worst.e.result === 'no_cut' ? $t('did not cut') : `${figure(worst.e.latency_ms)} ms` }}
    </text>
  </svg>
  <ul class="key">
    <li><i class="left" />{{ $t('left lever') }}</li>
    <li><i class="right" />{{ $t('right lever') }}</li>
    <li><i class="late" />{{ $t('late or missed') }}</li>
  </ul>
</template>

<style scoped>
svg {
  width: 100%;
  height: auto;
  display: block;
}
.t {
  font: 400 14px var(--words);
  fill: var(--ink);
}
.t.num {
  font-family: var(--figures);
}
.t.late {
  fill: var(--plum-text);
}
.mid {
  text-anchor: middle;
}
.end {
  text-anchor: end;
}
.b {
  font-weight: 700;
}
.curve {
  fill: none;
  stroke-width: 1.9;
  stroke: var(--jade);
}
.curve.right {
  stroke: var(--copper-text);
  stroke-dasharray: 7 3;
}
.curve.shift,
.curve.pedals {
  stroke: var(--soft);
}
.curve.late {
  stroke: var(--plum);
  stroke-width: 3;
  stroke-dasharray: 9 4;
}
.curve.dim {
  opacity: 0.2;
}
.curve.on {
  stroke-width: 4;
}
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  list-style: none;
  margin: 6px 0 0;
  padding: 0 0 0 62px;
  font-size: 14px;
}
.key li {
  white-space: nowrap;
}
.key i {
  display: inline-block;
  width: 34px;
  border-top: 3px solid var(--jade);
  vertical-align: middle;
  margin-right: 8px;
}
.key .right {
  border-top: 3px dashed var(--copper-text);
}
.key .late {
  border-top: 4px dashed var(--plum);
}
</style>
