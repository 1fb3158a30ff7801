<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { CheckState, View } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { outcomeMark, type Mark } from '@/app/words'
import GateMark from './GateMark.vue'
import { sideView, spread, type Pt } from './geometry'

/** This vehicle, drive side, to scale, its zones touchable with their worst state. */
const props = defineProps<{ view: View; zone: string | null; gate?: number }>()
const emit = defineEmits<{ zone: [zone: string] }>()
const { evaluation } = useInspection()

const v = computed(() => sideView(props.view.sheet))
// Drawing space: labels stand in two columns beside the vehicle.
const TOP = 90
const box = useTemplateRef('box')
const { width } = useElementSize(box)
/** No room for labels beside the drawing: they stand in a list under it. */
const narrow = computed(() => width.value > 0 && width.value < 560)
/** Pixels that a column of labels takes, and drawing units that make a pixel. */
const LABELS = 122
const px = computed(() => {
  const w = width.value || 700
  const span = v.value.box.x1 - v.value.box.x0
  return narrow.value ? (span + 80) / w : span / (w - 2 * LABELS)
})
const COL = computed(() => (narrow.value ? 40 : LABELS * px.value))
const H = computed(() => v.value.box.y1 + TOP)
const W = computed(() => v.value.box.x1 - v.value.box.x0 + 2 * COL.value)
const X = (x: number) => x - v.value.box.x0 + COL.value
const Y = (y: number) => H.value - y
const p = (q: Pt) => `${X(q.x).toFixed(1)} ${Y(q.y).toFixed(1)}`
const line = (...q: Pt[]) => 'M' + q.map(p).join('L')

const mid = (a: Pt, b: Pt, t = 0.5): Pt => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t })
const trike = computed(() => props.view.sheet.kind !== 'bicycle')
const drives = computed(() => props.view.sheet.drives ?? [])
const disc = (w: 'front' | 'rear') => props.view.sheet[w]?.brake?.value === 'disc'

const packs = computed(() =>
  (props.view.sheet.packs ?? []).map((k) => {
    const s = v.value
    switch (k.place) {
      case 'down_tube':
        return { at: mid(s.bb, s.crown, 0.5), a: s.bb, b: s.crown, lift: 52, l: 360, h: 86 }
      case 'seat_tube':
        return { at: mid(s.bb, s.seatTop, 0.5), a: s.bb, b: s.seatTop, lift: -55, l: 300, h: 80 }
    }
    const y = trike.value ? s.rear.c.y + s.rear.r * 0.55 : s.rear.c.y + s.rear.r + 60
    return { at: { x: -30, y }, a: { x: -100, y }, b: { x: 100, y }, lift: 0, l: 340, h: 90 }
  }),
)
function packShape(k: (typeof packs.value)[number]): string {
  const dx = k.b.x - k.a.x
  const dy = k.b.y - k.a.y
  const d = Math.hypot(dx, dy)
  const u = { x: dx / d, y: dy / d }
  const n = { x: -u.y, y: u.x }
  const c = { x: k.at.x + n.x * k.lift, y: k.at.y + n.y * k.lift }
  const corner = (s: number, t: number) => ({
    x: c.x + (u.x * s * k.l) / 2 + (n.x * t * k.h) / 2,
    y: c.y + (u.y * s * k.l) / 2 + (n.y * t * k.h) / 2,
  })
  return line(corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)) + 'Z'
}

const controller = computed(() => mid(v.value.bb, v.value.seatTop, 0.28))
const places = computed<Record<string, { at: Pt; name: string }>>(() => {
  const s = v.value
  return {
    front_axle: { at: s.front.c, name: 'front axle' },
    rear_axle: { at: s.rear.c, name: 'rear axle' },
    front_wheel: {
      at: { x: s.front.c.x + s.front.rim * 0.72, y: s.front.c.y - s.front.rim * 0.68 },
      name: 'front wheel',
    },
    rear_wheel: { at: { x: s.rear.c.x - s.rear.rim * 0.72, y: s.rear.c.y - s.rear.rim * 0.68 }, name: 'rear wheel' },
    frame: { at: mid(s.seatTop, s.headTop, 0.45), name: 'frame' },
    head: { at: mid(s.crown, s.headTop), name: 'head' },
    bars: { at: s.bars, name: 'bars' },
    left_lever: { at: { x: s.bars.x + 120, y: s.bars.y - 10 }, name: 'left lever' },
    right_lever: { at: { x: s.bars.x + 60, y: s.bars.y + 46 }, name: 'right lever' },
    battery: { at: packs.value[0]?.at ?? mid(s.bb, s.crown), name: 'battery' },
    controller: { at: { x: controller.value.x - 70, y: controller.value.y }, name: 'controller' },
    cranks: { at: s.bb, name: 'cranks' },
    harness: { at: mid(s.crown, s.bb, 0.22), name: 'wiring' },
    vehicle: { at: { x: s.saddle.x, y: s.saddle.y }, name: 'whole vehicle' },
  }
})

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
  const bad = checks.filter((c) => c.outcome === 'fail').length
  if (bad) return `${bad} to mend`
  return open ? `${open} open` : `${checks.length} of ${checks.length}`
}

const labels = computed(() => {
  const by = new Map<string, CheckState[]>()
  for (const c of evaluation.value?.checks ?? []) {
    if (props.gate && c.gate !== props.gate) continue
    if (!places.value[c.zone]) continue
    by.set(c.zone, [...(by.get(c.zone) ?? []), c])
  }
  const all = [...by].map(([zone, checks]) => {
    const place = places.value[zone]!
    return {
      zone,
      name: place.name,
      note: note(checks),
      mark: worst(checks),
      px: X(place.at.x),
      py: Y(place.at.y),
      y: Y(place.at.y),
    }
  })
  const middle = W.value / 2
  // Balance the two columns: the outermost places go to their own side.
  const sorted = [...all].sort((a, b) => a.px - b.px)
  const nLeft = Math.max(sorted.filter((l) => l.px < middle).length, sorted.length - 7)
  const left = sorted.slice(0, Math.min(nLeft, 7))
  const right = sorted.slice(Math.min(nLeft, 7))
  const gap = 44 * px.value
  return [
    ...spread(left, gap, 24 * px.value, H.value - 24 * px.value).map((l) => ({ ...l, side: 'left' as const })),
    ...spread(right, gap, 24 * px.value, H.value - 24 * px.value).map((l) => ({ ...l, side: 'right' as const })),
  ]
})
const spokes = (c: Pt, hub: number, r: number) =>
  Array.from({ length: 18 }, (_, i) => {
    const a = (i / 18) * 2 * Math.PI
    const b = a + (i % 2 ? 0.5 : -0.5)
    return `M${X(c.x + hub * Math.cos(b))} ${Y(c.y + hub * Math.sin(b))}L${X(c.x + r * Math.cos(a))} ${Y(c.y + r * Math.sin(a))}`
  }).join('')
const motor = (w: 'front' | 'rear') => drives.value.some((d) => d.kind === `${w}_hub`)
</script>

<template>
  <div ref="box">
    <svg
      class="vehicle"
      :viewBox="`0 0 ${W} ${H + 40}`"
      role="group"
      :aria-label="`${view.sheet.name}, drive side, to scale`"
    >
      <defs>
        <pattern id="dots" width="60" height="60" patternUnits="userSpaceOnUse">
          <circle cx="3" cy="3" r="3" fill="var(--line)" opacity="0.5" />
        </pattern>
      </defs>
      <rect :width="W" :height="H" fill="url(#dots)" />
      <path :d="`M0 ${H}H${W}`" stroke="var(--soft)" stroke-width="3" />
      <g aria-hidden="true">
        <!-- wheels -->
        <g v-for="w in ['rear', 'front'] as const" :key="w" fill="none">
          <circle
            v-if="(w === 'rear' && view.sheet.kind === 'delta') || (w === 'front' && view.sheet.kind === 'tadpole')"
            :cx="X(v[w].c.x + 34)"
            :cy="Y(v[w].c.y + 16)"
            :r="(v[w].r + v[w].rim) / 2"
            :stroke-width="v[w].r - v[w].rim"
            stroke="var(--tyre)"
            opacity="0.35"
          />
          <path
            :d="spokes(v[w].c, motor(w) ? 105 : 26, v[w].rim - 8)"
            stroke="var(--soft)"
            stroke-width="2"
            opacity="0.6"
          />
          <circle
            :cx="X(v[w].c.x)"
            :cy="Y(v[w].c.y)"
            :r="(v[w].r + v[w].rim) / 2"
            :stroke-width="v[w].r - v[w].rim"
            stroke="var(--tyre)"
          />
          <circle :cx="X(v[w].c.x)" :cy="Y(v[w].c.y)" :r="v[w].rim - 8" stroke="var(--soft)" stroke-width="9" />
          <circle
            v-if="disc(w)"
            :cx="X(v[w].c.x)"
            :cy="Y(v[w].c.y)"
            r="80"
            stroke="var(--soft)"
            stroke-width="10"
            stroke-dasharray="26 8"
          />
          <circle
            :cx="X(v[w].c.x)"
            :cy="Y(v[w].c.y)"
            :r="motor(w) ? 104 : 26"
            :fill="motor(w) ? 'var(--hide-pale)' : 'var(--panel)'"
            stroke="var(--ink)"
            stroke-width="5"
          />
        </g>
        <!-- chain -->
        <path
          :d="`M${X(0)} ${Y(v.rear.c.y + 36)}L${X(v.bb.x)} ${Y(v.bb.y + 84)}M${X(0)} ${Y(v.rear.c.y - 36)}L${X(v.bb.x)} ${Y(v.bb.y - 84)}`"
          stroke="var(--soft)"
          stroke-width="7"
          stroke-dasharray="12 6"
        />
        <!-- frame -->
        <g stroke="var(--frame)" stroke-linecap="round" fill="none">
          <path :d="line(v.rear.c, v.bb)" stroke-width="18" />
          <path :d="line(v.rear.c, v.seatTop)" stroke-width="15" />
          <path :d="line(v.bb, v.seatTop)" stroke-width="30" />
          <path :d="line(v.bb, mid(v.crown, v.headTop, 0.2))" stroke-width="36" />
          <path v-if="!trike" :d="line(v.seatTop, mid(v.crown, v.headTop, 0.8))" stroke-width="26" />
          <path v-else :d="line(mid(v.bb, v.seatTop, 0.45), mid(v.crown, v.headTop, 0.75))" stroke-width="26" />
          <path :d="line(v.crown, v.headTop)" stroke-width="38" />
        </g>
        <g stroke="var(--ink)" stroke-linecap="round" fill="none">
          <path :d="line(v.crown, v.front.c)" stroke-width="22" />
          <path :d="line(v.headTop, v.bars)" stroke-width="20" />
          <path
            :d="`M${X(v.bars.x - 40)} ${Y(v.bars.y + 12)}L${X(v.bars.x)} ${Y(v.bars.y)}L${X(v.bars.x + 70)} ${Y(v.bars.y + 14)}`"
            stroke-width="18"
          />
          <path
            :d="`M${X(v.bars.x + 60)} ${Y(v.bars.y + 10)}L${X(v.bars.x + 125)} ${Y(v.bars.y - 34)}`"
            stroke-width="9"
          />
          <path :d="line(v.seatTop, v.saddle)" stroke-width="20" />
          <path
            :d="`M${X(v.saddle.x - 150)} ${Y(v.saddle.y + 26)}Q${X(v.saddle.x - 40)} ${Y(v.saddle.y + 34)} ${X(v.saddle.x + 130)} ${Y(v.saddle.y + 14)}`"
            stroke-width="30"
          />
          <circle :cx="X(v.bb.x)" :cy="Y(v.bb.y)" r="88" stroke="var(--soft)" stroke-width="11" />
          <path :d="`M${X(v.bb.x)} ${Y(v.bb.y)}L${X(v.bb.x + 120)} ${Y(v.bb.y - 122)}m-40 0h90`" stroke-width="16" />
        </g>
        <!-- what the kit brought -->
        <rect
          :x="X(controller.x) - 105"
          :y="Y(controller.y) - 58"
          width="90"
          height="116"
          fill="var(--steel)"
          stroke="var(--ink)"
          stroke-width="5"
          :transform="`rotate(17 ${X(controller.x)} ${Y(controller.y)})`"
        />
        <g v-if="trike">
          <path
            :d="`M${X(-330)} ${Y(v.rear.c.y + v.rear.r + 260)}V${Y(v.rear.c.y + v.rear.r * 0.35)}H${X(230)}V${Y(v.rear.c.y + v.rear.r + 260)}Z`"
            fill="none"
            stroke="var(--soft)"
            stroke-width="6"
            stroke-dasharray="18 10"
          />
        </g>
        <path
          v-for="(k, i) in packs"
          :key="i"
          :d="packShape(k)"
          fill="var(--hide)"
          stroke="var(--ink)"
          stroke-width="5"
        />
      </g>
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
