<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import type { View } from '@/api/client'
import { motorAt, type Canvas, type EndView, type SideView } from '../geometry'

/** One end of the vehicle, seen along its length, to scale. */
const props = defineProps<{ view: View; v: SideView; e: EndView; canvas: Canvas }>()
const X = (x: number) => props.canvas.X(x)
const Y = (y: number) => props.canvas.Y(y)
const motor = computed(() => motorAt(props.view.sheet, `${props.e.end}_hub`))
const disc = computed(() => props.view.sheet[props.e.end]?.brake?.value === 'disc')
const rack = computed(() => (props.view.sheet.packs ?? []).some((k) => ['rack', 'box', 'basket'].includes(k.place)))
/** The boxes over this axle. */
const boxes = computed(() =>
  props.v.cargo.filter((c) => (c.x0 + c.x1) / 2 > props.v.front.c.x / 2 === (props.e.end === 'front')),
)
/** Half of what stands between fork blades or stays. */
const HALF = 62
const left = computed(() => (props.e.end === 'front' ? $t('L on the right') : $t('L on the left')))
</script>

<template>
  <g>
    <g v-for="x in e.wheels" :key="x">
      <rect
        :x="X(x - e.tyre / 2)"
        :y="Y(2 * e.r)"
        :width="e.tyre"
        :height="2 * e.r"
        :rx="e.tyre / 2"
        fill="var(--tyre)"
      />
      <rect
        v-if="motor && e.wheels.length === 1"
        :x="X(x - 44)"
        :y="Y(e.r + 104)"
        width="88"
        height="208"
        rx="10"
        fill="var(--hide-pale)"
        stroke="var(--ink)"
        stroke-width="5"
      />
      <rect
        v-if="disc"
        :x="X(x - 52)"
        :y="Y(e.r + 80)"
        width="6"
        height="160"
        fill="var(--soft)"
        stroke="var(--ink)"
        stroke-width="2"
      />
      <path :d="`M${X(x - HALF - 26)} ${Y(e.r)}H${X(x + HALF + 26)}`" stroke="var(--ink)" stroke-width="9" />
    </g>
    <g fill="none" stroke-linecap="round">
      <path
        v-if="e.wheels.length > 1"
        :d="`M${X(e.wheels[0]! + 40)} ${Y(e.r)}H${X(e.wheels[1]! - 40)}M${X(0)} ${Y(e.r)}V${Y(v.seatTop.y)}`"
        stroke="var(--frame)"
        stroke-width="26"
      />
      <template v-else-if="e.end === 'front' && v.fork">
        <path
          :d="`M${X(-HALF)} ${Y(e.r)}V${Y(v.crown.y)}H${X(HALF)}V${Y(e.r)}`"
          stroke="var(--ink)"
          stroke-width="20"
        />
      </template>
      <path
        v-else
        :d="`M${X(-HALF)} ${Y(e.r)}L${X(-26)} ${Y(v.seatTop.y)}H${X(26)}L${X(HALF)} ${Y(e.r)}`"
        stroke="var(--frame)"
        stroke-width="15"
      />
      <template v-if="v.seat">
        <rect
          :x="X(-190)"
          :y="Y(v.seat[2].y)"
          width="380"
          :height="v.seat[2].y - v.seat[1].y"
          rx="60"
          fill="var(--steel-pale)"
          stroke="var(--ink)"
          stroke-width="6"
        />
        <path
          :d="`M${X(-265)} ${Y(v.bars.y - 120)}V${Y(v.bars.y + 50)}M${X(265)} ${Y(v.bars.y - 120)}V${Y(v.bars.y + 50)}`"
          stroke="var(--ink)"
          stroke-width="18"
        />
      </template>
      <template v-else-if="e.end === 'front'">
        <path :d="`M${X(0)} ${Y(v.crown.y)}V${Y(v.headTop.y)}`" stroke="var(--frame)" stroke-width="40" />
        <path
          :d="`M${X(0)} ${Y(v.headTop.y)}V${Y(v.bars.y)}M${X(-300)} ${Y(v.bars.y - 10)}Q${X(0)} ${Y(v.bars.y + 30)} ${X(300)} ${Y(v.bars.y - 10)}`"
          stroke="var(--ink)"
          stroke-width="18"
        />
        <path
          :d="`M${X(-285)} ${Y(v.bars.y - 34)}H${X(-175)}M${X(175)} ${Y(v.bars.y - 34)}H${X(285)}`"
          stroke="var(--ink)"
          stroke-width="9"
        />
      </template>
      <template v-else>
        <path :d="`M${X(0)} ${Y(v.seatTop.y)}V${Y(v.saddle.y)}`" stroke="var(--ink)" stroke-width="20" />
        <path
          :d="`M${X(-85)} ${Y(v.saddle.y + 20)}Q${X(0)} ${Y(v.saddle.y + 44)} ${X(85)} ${Y(v.saddle.y + 20)}`"
          stroke="var(--ink)"
          stroke-width="30"
        />
      </template>
    </g>
    <rect
      v-if="rack && e.end === 'rear'"
      :x="X(-90)"
      :y="Y(v.rear.c.y + v.rear.r + 110)"
      width="180"
      height="92"
      fill="var(--hide)"
      stroke="var(--ink)"
      stroke-width="5"
    />
    <path
      v-for="(c, i) in boxes"
      :key="`c${i}`"
      :d="`M${X(-c.half)} ${Y(c.y1)}V${Y(c.y0)}H${X(c.half)}V${Y(c.y1)}Z`"
      fill="none"
      stroke="var(--soft)"
      stroke-width="7"
      :stroke-dasharray="c.known ? undefined : '18 10'"
    />
    <text :x="X(0)" :y="Y(-30)" class="hand">{{ left }}</text>
  </g>
</template>

<style scoped>
.hand {
  font: 400 26px var(--words);
  fill: var(--soft);
  text-anchor: middle;
}
</style>
