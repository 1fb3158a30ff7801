<script setup lang="ts">
import { computed } from 'vue'
import type { View } from '@/api/client'
import { cables, mid, motorAt, packsOf, type Canvas, type Pt, type SideView } from '../geometry'

/** The vehicle from its side, to scale: the bicycle in green, the kit inked. */
const props = defineProps<{ view: View; v: SideView; canvas: Canvas; bare?: boolean }>()
const X = (x: number) => props.canvas.X(x)
const Y = (y: number) => props.canvas.Y(y)
const line = (...q: Pt[]) => props.canvas.line(...q)
const disc = (w: 'front' | 'rear') => props.view.sheet[w]?.brake?.value === 'disc'
const motor = (w: 'front' | 'rear') => motorAt(props.view.sheet, `${w}_hub`)
const midDrive = computed(() => motorAt(props.view.sheet, 'mid'))
const packs = computed(() => packsOf(props.view.sheet, props.v))
const controller = computed(() => props.v.controller)
/** Where the leads are drawn by themselves, they are left out. */
const wires = computed(() => (props.bare ? [] : cables(props.view.sheet, props.v)))
function packShape(k: ReturnType<typeof packsOf>[number]): string {
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
const spokes = (c: Pt, hub: number, r: number) =>
  Array.from({ length: 18 }, (_, i) => {
    const a = (i / 18) * 2 * Math.PI
    const b = a + (i % 2 ? 0.5 : -0.5)
    return `M${X(c.x + hub * Math.cos(b))} ${Y(c.y + hub * Math.sin(b))}L${X(c.x + r * Math.cos(a))} ${Y(c.y + r * Math.sin(a))}`
  }).join('')
</script>

<template>
  <g>
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
    <g stroke="var(--frame)" stroke-linecap="round" stroke-linejoin="round" fill="none">
      <path v-for="(t, i) in v.tubes" :key="i" :d="line(...t.q)" :stroke-width="t.w" />
    </g>
    <g stroke="var(--ink)" stroke-linecap="round" stroke-linejoin="round" fill="none">
      <path v-if="v.fork" :d="line(v.crown, v.front.c)" stroke-width="22" />
      <path :d="line(v.headTop, v.bars)" :stroke-width="v.seat && !v.fork ? 9 : 20" />
      <template v-if="v.seat">
        <path :d="line(mid(v.seat[0], v.seat[1], 0.5), v.bars)" stroke-width="14" />
        <path
          :d="line({ x: v.bars.x - 14, y: v.bars.y - 30 }, { x: v.bars.x + 6, y: v.bars.y + 50 })"
          stroke-width="22"
        />
        <path :d="line(...v.seat)" stroke-width="30" />
      </template>
      <template v-else>
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
      </template>
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
    <path
      v-for="(c, i) in v.cargo"
      :key="`c${i}`"
      :d="`M${X(c.x0)} ${Y(c.y1)}V${Y(c.y0)}H${X(c.x1)}V${Y(c.y1)}Z`"
      fill="none"
      stroke="var(--soft)"
      stroke-width="7"
      :stroke-dasharray="c.known ? undefined : '18 10'"
    />
    <path
      v-for="(c, i) in wires"
      :key="`w${i}`"
      :d="line(...c.q)"
      fill="none"
      stroke="var(--copper)"
      :stroke-width="c.thin ? 5 : 9"
      stroke-linejoin="round"
      stroke-linecap="round"
    />
    <path v-for="(k, i) in packs" :key="i" :d="packShape(k)" fill="var(--hide)" stroke="var(--ink)" stroke-width="5" />

    <g v-if="midDrive">
      <path
        :d="`M${X(v.bb.x - 70)} ${Y(v.bb.y - 40)}h190a30 30 0 0 1 30 30v50h-220z`"
        fill="var(--hide-pale)"
        stroke="var(--ink)"
        stroke-width="5"
      />
      <circle :cx="X(v.bb.x)" :cy="Y(v.bb.y)" r="34" fill="var(--panel)" stroke="var(--ink)" stroke-width="5" />
    </g>
  </g>
</template>
