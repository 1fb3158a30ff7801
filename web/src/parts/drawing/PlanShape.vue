<script setup lang="ts">
import { computed } from 'vue'
import type { View } from '@/api/client'
import { motorAt, packsOf, type Canvas, type SideView } from '../geometry'

/** A trike from above, to scale, the front at the top. */
const props = defineProps<{ view: View; v: SideView; canvas: Canvas }>()
const X = (x: number) => props.canvas.X(x)
const Y = (y: number) => props.canvas.Y(y)
const half = computed(() => (props.view.sheet.geometry?.track_mm ?? 700) / 2)
const tadpole = computed(() => props.view.sheet.kind === 'tadpole')
const wheels = computed(() => {
  const pair = tadpole.value ? 'front' : 'rear'
  return (['front', 'rear'] as const).flatMap((w) =>
    (w === pair ? [-half.value, half.value] : [0]).map((x) => ({
      x,
      y: w === 'front' ? props.v.front.c.x : 0,
      r: props.v[w].r,
      t: props.view.sheet[w]?.tyre_mm?.value ?? 50,
      motor: motorAt(props.view.sheet, `${w}_hub`),
    })),
  )
})
const packs = computed(() => packsOf(props.view.sheet, props.v))
const cross = computed(() => (tadpole.value ? props.v.front.c.x : 0))
</script>

<template>
  <g>
    <path
      :d="`M${X(-half)} ${Y(cross)}L${X(half)} ${Y(cross)}L${X(0)} ${Y(tadpole ? 0 : v.front.c.x)}Z`"
      fill="var(--jade-pale)"
      opacity="0.7"
    />
    <g stroke="var(--frame)" stroke-linecap="round" fill="none">
      <path :d="`M${X(-half + 40)} ${Y(cross)}H${X(half - 40)}`" stroke-width="24" />
      <path :d="`M${X(0)} ${Y(20)}V${Y(Math.max(v.front.c.x - 40, v.seat ? v.bb.x : 0))}`" stroke-width="26" />
    </g>
    <g v-for="(w, i) in wheels" :key="i">
      <rect :x="X(w.x - w.t / 2)" :y="Y(w.y + w.r)" :width="w.t" :height="2 * w.r" :rx="w.t / 2" fill="var(--tyre)" />
      <rect
        v-if="w.motor"
        :x="X(w.x - 42)"
        :y="Y(w.y + 104)"
        width="84"
        height="208"
        rx="12"
        fill="var(--hide-pale)"
        stroke="var(--ink)"
        stroke-width="5"
      />
    </g>
    <rect
      v-for="(c, i) in v.cargo"
      :key="`c${i}`"
      :x="X(-c.half)"
      :y="Y(c.x1)"
      :width="2 * c.half"
      :height="c.x1 - c.x0"
      fill="none"
      stroke="var(--soft)"
      stroke-width="7"
      :stroke-dasharray="c.known ? undefined : '18 10'"
    />
    <template v-if="v.seat">
      <rect
        :x="X(-190)"
        :y="Y(v.seat[0].x)"
        width="380"
        :height="v.seat[0].x - v.seat[2].x"
        rx="60"
        fill="var(--steel-pale)"
        stroke="var(--ink)"
        stroke-width="6"
        opacity="0.9"
      />
      <path
        :d="`M${X(-265)} ${Y(v.bars.x + 60)}V${Y(v.bars.x - 60)}M${X(265)} ${Y(v.bars.x + 60)}V${Y(v.bars.x - 60)}`"
        stroke="var(--ink)"
        stroke-width="18"
        stroke-linecap="round"
      />
    </template>
    <template v-else>
      <path
        :d="`M${X(-290)} ${Y(v.bars.x - 60)}Q${X(0)} ${Y(v.bars.x + 50)} ${X(290)} ${Y(v.bars.x - 60)}`"
        fill="none"
        stroke="var(--ink)"
        stroke-width="16"
        stroke-linecap="round"
      />
      <ellipse :cx="X(0)" :cy="Y(v.saddle.x)" rx="85" ry="120" fill="var(--soft)" opacity="0.6" />
    </template>
    <path
      :d="`M${X(-150)} ${Y(v.bb.x)}H${X(150)}M${X(70)} ${Y(v.bb.x + 80)}V${Y(v.bb.x - 80)}`"
      stroke="var(--soft)"
      stroke-width="14"
    />
    <rect
      v-for="(_, i) in view.sheet.packs"
      :key="`p${i}`"
      :x="X(-90)"
      :y="Y(packs[i]!.at.x + 55)"
      width="180"
      height="110"
      fill="var(--hide)"
      stroke="var(--ink)"
      stroke-width="5"
    />
  </g>
</template>
