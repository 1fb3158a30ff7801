<script setup lang="ts">
import { $t } from '@/lib/say'
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { CheckState } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { outcomeMark, type Mark } from '@/lib/words'
import GateMark from '../GateMark.vue'
import { spread, type Canvas, type Places } from '../geometry'

/**
 * A drawing to scale with touchable places: the shapes come in the slot, the
 * places get rings, leaders and labels in two columns that cross nothing.
 */
const props = defineProps<{
  box: { x0: number; x1: number; y1: number }
  places: Places
  zone: string | null
  gate?: number
  label: string
  ground?: boolean
}>()
const emit = defineEmits<{ zone: [zone: string] }>()
const { evaluation } = useInspection()

const TOP = 90
const el = useTemplateRef('el')
const { width } = useElementSize(el)
/** No room for labels beside the drawing: they stand in a list under it. */
const narrow = computed(() => width.value > 0 && width.value < 560)
/** Pixels that a column of labels takes. */
const LABELS = 122
/** As tall as a bench tablet has room for, in pixels. */
const TALL = 400
const span = computed(() => props.box.x1 - props.box.x0)
const H = computed(() => props.box.y1 + TOP)
/** Drawing units that make a pixel. */
const px = computed(() => {
  const w = width.value || 700
  const wide = narrow.value ? (span.value + 80) / w : span.value / (w - 2 * LABELS)
  return Math.max(wide, H.value / TALL)
})
const COL = computed(() => (narrow.value ? 40 : LABELS * px.value))
const W = computed(() => Math.max(span.value + 2 * COL.value, narrow.value ? 0 : (width.value || 700) * px.value))
const X = (x: number) => x - props.box.x0 + (W.value - span.value) / 2
const Y = (y: number) => H.value - y
const p = (q: { x: number; y: number }) => `${X(q.x).toFixed(1)} ${Y(q.y).toFixed(1)}`
const canvas = computed<Canvas>(() => ({ X, Y, line: (...q) => 'M' + q.map(p).join('L') }))

const order: Mark[] = ['open', 'ajar', 'not_begun', 'held', 'shut']
function worst(checks: CheckState[]): Mark {
  let w: Mark = 'open'
  for (const c of checks) {
    const f = evaluation.value?.findings.find((x) => x.check === c.id)
    const m = outcomeMark(c.outcome, f?.severity ?? c.severity)
    if (order.indexOf(m) > order.indexOf(w)) w = m
  }
  return w
}
function note(checks: CheckState[]): string {
  const open = checks.filter((c) => c.outcome === 'open' || c.outcome === 'doubtful').length
  const found = evaluation.value?.findings.filter((f) => checks.some((c) => c.id === f.check)) ?? []
  const bad = new Set(found.filter((f) => f.severity === 'stop' || f.severity === 'fix').map((f) => f.check)).size
  if (bad) return $t('{bad} to mend', { bad })
  const watch = new Set(found.filter((f) => f.severity === 'watch').map((f) => f.check)).size
  if (!open && watch) return $t('{watch} to watch', { watch })
  return open ? $t('{open} open', { open }) : $t('{done} of {total}', { done: checks.length, total: checks.length })
}

const labels = computed(() => {
  const by = new Map<string, CheckState[]>()
  for (const c of evaluation.value?.checks ?? []) {
    if (props.gate && c.gate !== props.gate) continue
    if (!props.places[c.zone]) continue
    by.set(c.zone, [...(by.get(c.zone) ?? []), c])
  }
  const all = [...by].map(([zone, checks]) => {
    const place = props.places[zone]!
    const at = { px: X(place.at.x), py: Y(place.at.y), y: Y(place.at.y) }
    return { zone, name: place.name, note: note(checks), mark: worst(checks), ...at }
  })
  const middle = W.value / 2
  // Balance the two columns: the outermost places go to their own side.
  const sorted = [...all].sort((a, b) => a.px - b.px)
  const most = Math.floor(H.value / (44 * px.value))
  // What lies in the middle fills the shorter column.
  const half = Math.floor(sorted.length / 2)
  const own = sorted.filter((l) => l.px < middle).length
  const nLeft = Math.max(Math.abs(own - half) > 2 ? half : own, sorted.length - most)
  const left = sorted.slice(0, Math.min(nLeft, most))
  const right = sorted.slice(Math.min(nLeft, most))
  const gap = 44 * px.value
  return [
    ...spread(left, gap, 24 * px.value, H.value - 24 * px.value).map((l) => ({ ...l, side: 'left' as const })),
    ...spread(right, gap, 24 * px.value, H.value - 24 * px.value).map((l) => ({ ...l, side: 'right' as const })),
  ]
})
</script>

<template>
  <div ref="el">
    <svg class="vehicle" :viewBox="`0 0 ${W} ${H + 40}`" role="group" :aria-label="label">
      <defs>
        <pattern id="dots" width="60" height="60" patternUnits="userSpaceOnUse">
          <circle cx="3" cy="3" r="3" fill="var(--line)" opacity="0.5" />
        </pattern>
      </defs>
      <rect :width="W" :height="H" fill="url(#dots)" />
      <path v-if="ground" :d="`M0 ${H}H${W}`" stroke="var(--soft)" stroke-width="3" />
      <g aria-hidden="true"><slot :canvas="canvas" /></g>
      <g v-for="l in labels" :key="l.zone">
        <path
          v-if="!narrow"
          :d="`M${l.px} ${l.py}L${l.side === 'left' ? COL : W - COL} ${l.y}h${(l.side === 'left' ? -6 : 6) * px}`"
          stroke="var(--ink)"
          :stroke-width="px"
          fill="none"
          aria-hidden="true"
        />
        <g
          class="zone"
          role="button"
          tabindex="0"
          :aria-pressed="zone === l.zone"
          :aria-label="narrow ? `${l.name} ${l.note}` : undefined"
          :data-zone="l.zone"
          :transform="`translate(${l.side === 'left' ? 0 : W - COL + 7 * px} ${l.y}) scale(${px})`"
          @click="emit('zone', l.zone)"
          @keydown.enter.prevent="emit('zone', l.zone)"
          @keydown.space.prevent="emit('zone', l.zone)"
        >
          <template v-if="!narrow">
            <rect x="0" y="-22" :width="LABELS - 8" height="44" class="hit" />
            <GateMark :state="l.mark" :size="24" x="2" y="-12" />
            <text x="32" y="-2" class="name">{{ l.name }}</text>
            <text x="32" y="14" class="note">{{ l.note }}</text>
          </template>
          <circle
            :cx="l.px / px - (l.side === 'left' ? 0 : (W - COL) / px + 7)"
            :cy="(l.py - l.y) / px"
            r="11"
            class="ring"
          />
        </g>
      </g>
    </svg>
    <div v-if="narrow" class="list">
      <button
        v-for="l in labels"
        :key="l.zone"
        type="button"
        :aria-pressed="zone === l.zone"
        @click="emit('zone', l.zone)"
      >
        <GateMark :state="l.mark" :size="24" /> {{ l.name }} <small>{{ l.note }}</small>
      </button>
    </div>
  </div>
</template>

<style scoped>
.vehicle {
  width: 100%;
  height: auto;
  max-height: 62vh;
  display: block;
}
.zone {
  cursor: pointer;
}
.hit {
  fill: transparent;
}
.zone[aria-pressed='true'] .hit {
  fill: var(--jade-pale);
}
.ring {
  fill: var(--panel);
  fill-opacity: 0.35;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.zone[aria-pressed='true'] .ring {
  stroke: var(--copper);
  stroke-width: 4;
}
.zone:focus-visible {
  outline: none;
}
.zone:focus-visible .hit,
.zone:focus-visible .ring {
  stroke: var(--copper);
  stroke-width: 3;
}
.name {
  font: 700 13.5px var(--words);
  fill: var(--ink);
}
.note {
  font: 400 12.5px var(--words);
  fill: var(--soft);
}
.zone[aria-pressed='true'] .note {
  fill: var(--ink);
}
.list {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 6px;
  margin-top: 8px;
}
.list button {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  min-height: 48px;
  padding: 4px 8px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: transparent;
  color: var(--ink);
  font: 600 14px var(--words);
  text-align: left;
}
.list button[aria-pressed='true'] {
  background: var(--jade-pale);
}
</style>
