<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import { withUnit } from '@/state/units'
import type { Canvas, Pt } from '@/parts/geometry'
import { wordsOf, type DrawnLead } from './harness'

/** One lead on the map: as wide as its copper, coloured by how warm it gets, with its fuse and plug. */
const props = defineProps<{ lead: DrawnLead; on: boolean; canvas: Canvas; px: number }>()
defineEmits<{ pick: [] }>()
const line = computed(() => (props.lead.q.length ? props.canvas.line(...props.lead.q) : ''))
const thick = computed(() => (props.lead.area ? 2 + 2.4 * Math.sqrt(props.lead.area) : 3) * props.px)
const called = computed(
  () =>
    `${props.lead.title}: ${wordsOf(props.lead)}${props.lead.fuse ? $t(', fuse {fuse}', { fuse: withUnit(props.lead.fuse, 'A') }) : ''}${props.lead.bad ? $t(', to mend') : ''}`,
)
/** From the air's 30 °C to the 80 °C that common insulation stands. */
const colour = computed(() => {
  const c = props.lead.warm
  if (c === undefined) return 'var(--soft)'
  if (c === null || c > 80) return 'var(--plum)'
  const t = Math.max(0, Math.min(1, (c - 30) / 50))
  return `color-mix(in oklab, var(--copper) ${Math.round(t * 100)}%, var(--jade))`
})
/** A fuse lies on its lead, near the end that it guards; the plug near the other. */
const fuseAt = (q: Pt[]) => lying(q[0]!, q[1]!, 0.4, 34)
const plugAt = (q: Pt[]) => lying(q.at(-1)!, q.at(-2)!, 0.3, 24)
function lying(a: Pt, b: Pt, share: number, most: number): string {
  const d = Math.hypot(b.x - a.x, b.y - a.y) || 1
  const far = Math.min(d * share, most * props.px)
  const turn = (Math.atan2(-(b.y - a.y), b.x - a.x) * 180) / Math.PI
  const { X, Y } = props.canvas
  return `translate(${X(a.x + ((b.x - a.x) / d) * far)} ${Y(a.y + ((b.y - a.y) / d) * far)}) rotate(${turn}) scale(${props.px})`
}
</script>

<template>
  <g
    :class="['lead', { on }]"
    role="button"
    tabindex="0"
    :aria-pressed="on"
    :aria-label="called"
    :data-lead-drawn="lead.i"
    @click="$emit('pick')"
    @keydown.enter.prevent="$emit('pick')"
    @keydown.space.prevent="$emit('pick')"
  >
    <path :d="line" class="hit" :stroke-width="26 * px" />
    <path :d="line" class="edge" :stroke-width="thick + (on ? 5 : 2) * px" />
    <path
      :d="line"
      :stroke="colour"
      :stroke-width="thick"
      :stroke-dasharray="lead.ends ? undefined : `${10 * px} ${6 * px}`"
    />
    <g v-if="lead.plug && lead.q.length" :transform="plugAt(lead.q)">
      <path d="M-5 -6h7v12h-7zM2 -3h5M2 3h5" class="plug" />
    </g>
    <g v-if="lead.fuse && lead.q.length" :transform="fuseAt(lead.q)">
      <rect x="-14" y="-6" width="28" height="12" class="fuse" />
      <path d="M-14 0h28" stroke="var(--ink)" stroke-width="1.4" />
    </g>
  </g>
</template>

<style scoped>
.lead {
  cursor: pointer;
}
.lead path {
  fill: none;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.lead .hit {
  stroke: transparent;
}
.lead .edge {
  stroke: var(--ink);
}
.lead:focus-visible {
  outline: none;
}
.lead.on .edge,
.lead:focus-visible .edge {
  stroke: var(--copper);
}
.lead .fuse,
.lead .plug {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 1.4;
}
</style>
