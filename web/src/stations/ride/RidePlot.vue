<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { bare, unitShown } from '@/state/units'

/** Speed over time, with heights under it. A stretch is marked by dragging across, or by the two sliders. */
const props = defineProps<{ plot: Schemas['RidePlot']; runs: [number, number][]; limit: number | null }>()
const marked = defineModel<[number, number] | null>({ default: null })
const el = useTemplateRef('el')
const { width } = useElementSize(el)
const W = computed(() => Math.max(280, width.value || 600))
const H = 220
const L = 44
const B = 26
const top = computed(() => Math.max(10, ...props.plot.kmh, props.limit ?? 0) * 1.08)
const start = computed(() => props.plot.t[0] ?? 0)
const X = (t: number) => L + ((t - start.value) / Math.max(1e-9, props.plot.end_s - start.value)) * (W.value - L - 8)
const Y = (v: number) => H - B - (v / top.value) * (H - B - 10)
const path = computed(
  () => 'M' + props.plot.t.map((t, i) => `${X(t).toFixed(1)} ${Y(props.plot.kmh[i]!).toFixed(1)}`).join('L'),
)
const low = computed(() => Math.min(...props.plot.ele))
const high = computed(() => Math.max(...props.plot.ele))
const hills = computed(() => {
  if (!props.plot.ele.length) return ''
  const y = (e: number) => H - B - ((e - low.value) / Math.max(5, high.value - low.value)) * 40
  return (
    `M${X(start.value)} ${H - B}L` +
    props.plot.t.map((t, i) => `${X(t).toFixed(1)} ${y(props.plot.ele[i]!).toFixed(1)}`).join('L') +
    `L${X(props.plot.end_s)} ${H - B}Z`
  )
})
const steps = computed(() => {
  const step = top.value > 40 ? 20 : 10
  return Array.from({ length: Math.floor(top.value / step) }, (_, i) => (i + 1) * step)
})
const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`
const times = computed(() => [0, 0.25, 0.5, 0.75, 1].map((k) => start.value + k * (props.plot.end_s - start.value)))

const from = ref<number | null>(null)
function timeAt(e: PointerEvent) {
  const box = el.value!.getBoundingClientRect()
  const k = ((e.clientX - box.left) * (W.value / box.width) - L) / (W.value - L - 8)
  return start.value + Math.min(1, Math.max(0, k)) * (props.plot.end_s - start.value)
}
function down(e: PointerEvent) {
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  from.value = timeAt(e)
}
function drag(e: PointerEvent) {
  if (from.value === null) return
  const t = timeAt(e)
  if (Math.abs(t - from.value) > 1) marked.value = [Math.min(t, from.value), Math.max(t, from.value)]
}
/** By keys: the two ends one by one. */
function slide(end: 0 | 1, t: number) {
  const now: [number, number] = [...(marked.value ?? [start.value, props.plot.end_s])]
  now[end] = t
  if (now[1] > now[0]) marked.value = now
}
</script>

<template>
  <figure ref="el" class="plot" data-test="ride-plot">
    <svg
      :viewBox="`0 0 ${W} ${H}`"
      role="img"
      :aria-label="
        $t('Speed over the ride: fastest sustained from {best_from} to {best_to}', {
          best_from: clock(plot.best_from),
          best_to: clock(plot.best_to),
        })
      "
      @pointerdown="down"
      @pointermove="drag"
      @pointerup="from = null"
      @pointercancel="from = null"
    >
      <path v-if="hills" :d="hills" class="hills" />
      <g v-for="s in steps" :key="s">
        <line :x1="L" :x2="W - 8" :y1="Y(s)" :y2="Y(s)" class="grid" />
        <text :x="L - 6" :y="Y(s) + 4" text-anchor="end">{{ bare(s, 'km/h', 0) }}</text>
      </g>
      <text
        v-for="(t, i) in times"
        :key="i"
        :x="X(t)"
        :y="H - 8"
        :text-anchor="i === 4 ? 'end' : i ? 'middle' : 'start'"
      >
        {{ clock(t) }}
      </text>
      <rect
        v-for="(r, i) in runs"
        :key="i"
        :x="X(r[0])"
        :width="Math.max(1, X(r[1]) - X(r[0]))"
        :y="10"
        :height="H - B - 10"
        class="run"
      />
      <text v-for="(r, i) in runs" :key="`t${i}`" :x="X(r[0]) + 4" :y="22">{{ $t('run {n}', { n: i + 1 }) }}</text>
      <rect
        v-if="marked"
        :x="X(marked[0])"
        :width="Math.max(1, X(marked[1]) - X(marked[0]))"
        :y="10"
        :height="H - B - 10"
        class="marked"
      />
      <line v-if="limit !== null" :x1="L" :x2="W - 8" :y1="Y(limit)" :y2="Y(limit)" class="limit" />
      <path :d="path" class="speed" />
      <line :x1="X(plot.best_from)" :x2="X(plot.best_to)" :y1="H - B + 3" :y2="H - B + 3" class="best" />
      <line :x1="L" :x2="W - 8" :y1="H - B" :y2="H - B" class="axis" />
    </svg>
    <figcaption class="small">
      {{
        $t('{unit} over minutes; underlined: the fastest sustained stretch{limit}{hills}.', {
          unit: unitShown('km/h'),
          limit: limit !== null ? $t('; dashed: what the place allows') : '',
          hills: hills ? $t('; shaded: the heights') : '',
        })
      }}
    </figcaption>
    <details class="small">
      <summary>{{ $t('Mark by keys') }}</summary>
      <label v-for="end in [0, 1] as const" :key="end" class="slide">
        <span>{{ end ? $t('to') : $t('from') }} {{ clock(marked?.[end] ?? (end ? plot.end_s : start)) }}</span>
        <input
          type="range"
          :min="start"
          :max="plot.end_s"
          :step="1"
          :value="marked?.[end] ?? (end ? plot.end_s : start)"
          :data-test="end ? 'mark-to' : 'mark-from'"
          @input="slide(end, Number(($event.target as HTMLInputElement).value))"
        />
      </label>
    </details>
  </figure>
</template>

<style scoped>
.plot {
  margin: 0;
}
svg {
  display: block;
  width: 100%;
  touch-action: pan-y;
  cursor: crosshair;
}
text {
  font-size: 12px;
  fill: var(--soft);
}
.speed {
  fill: none;
  stroke: var(--jade);
  stroke-width: 1.8;
  stroke-linejoin: round;
}
.hills {
  fill: var(--line);
  opacity: 0.5;
}
.grid {
  stroke: var(--line);
}
.axis {
  stroke: var(--ink);
}
.limit {
  stroke: var(--copper);
  stroke-width: 2;
  stroke-dasharray: 6 5;
}
.best {
  stroke: var(--ink);
  stroke-width: 4;
}
.run {
  fill: var(--jade-pale);
  opacity: 0.7;
}
.marked {
  fill: var(--copper-pale);
  stroke: var(--copper);
  opacity: 0.75;
}
.slide {
  display: grid;
}
</style>
