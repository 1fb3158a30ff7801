<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { useDrawnWidth } from '@/lib/drawn'
import { bare, withUnit } from '@/state/units'
import { term, figure } from '@/lib/words'
import { thicknessOf } from './stack'

/** The stack on the axle, seen from behind, to scale along the axle. */
const props = defineProps<{ axle: Schemas['Axle']; judged: Schemas['Judged'][] }>()

interface Piece {
  x0: number
  x1: number
  h: number
  fill: string
  label: string
  arm?: boolean
}
const kinds: Record<string, [height: number, fill: string, name: string]> = {
  spacer: [17, '--steel-pale', $t('spacer')],
  plain_washer: [22, '--steel-pale', $t('washer')],
  tab_washer: [24, '--steel', $t('tab washer')],
  lock_washer: [20, '--steel-pale', $t('lock washer')],
  torque_arm: [26, '--jade', $t('arm')],
  rotor_spacer: [30, '--steel-pale', $t('rotor spacer')],
  other: [18, '--steel-pale', $t('part')],
}
const num = (f: { value: number | null } | undefined, d = 0) => f?.value ?? d

const half = computed(() => num(props.axle.hub_width_mm, 96) / 2)
const ends = computed(() => ({
  left: -half.value - num(props.axle.axle_left_mm, 32),
  right: half.value + num(props.axle.axle_right_mm, 32),
}))
const pieces = computed<Piece[]>(() => {
  const out: Piece[] = []
  for (const side of ['left', 'right'] as const) {
    const dir = side === 'left' ? -1 : 1
    let x = dir * half.value
    const put = (t: number, h: number, fill: string, label: string, arm = false) => {
      const y = x + dir * t
      out.push({ x0: Math.min(x, y), x1: Math.max(x, y), h, fill, label, arm })
      x = y
    }
    const parts = (props.axle.parts ?? []).filter((p) => p.side === side)
    const part = (p: Schemas['Part']) => {
      const [h, fill, name] = kinds[p.kind] ?? kinds.other!
      put(
        num(thicknessOf(props.axle, p)),
        h,
        fill,
        `${name} ${bare(thicknessOf(props.axle, p)?.value, 'mm', 2)}`,
        p.kind === 'torque_arm',
      )
    }
    parts.filter((p) => p.place === 'inner').forEach(part)
    put(
      num(props.axle[side].thickness_mm, 6),
      40,
      '--frame',
      $t('dropout {thickness_mm}', { thickness_mm: bare(props.axle[side].thickness_mm?.value, 'mm', 2) }),
    )
    parts.filter((p) => p.place === 'outer').forEach(part)
    put(
      num(props.axle.nut_height_mm, 10),
      20,
      '--hide',
      $t('nut {nut_height_mm}', { nut_height_mm: bare(props.axle.nut_height_mm?.value, 'mm', 2) }),
    )
  }
  return out
})
const d = computed(() => num(props.axle.d_mm, 12))
const el = useTemplateRef('el')
const wide = useDrawnWidth(el, 800)
const span = computed(() => ends.value.right - ends.value.left)
/** Drawing units a millimetre. */
const scale = computed(() => Math.min(4.1, (wide.value - 90) / span.value))
const W = computed(() => span.value * scale.value + 90)
const X = (mm: number) => (mm - ends.value.left) * scale.value + 45
const MID = 150
const armLength = (side: 'left' | 'right') => props.axle[side].arm?.length_mm?.value

/** Labels under the stack, the outermost first and away from the motor, so that no leader crosses a name. */
const labels = computed(() =>
  [-1, 1].flatMap((side) =>
    pieces.value
      .filter((p) => (p.x0 + p.x1) * side > 0)
      .sort((a, b) => (b.x0 - a.x0) * side)
      .map((p, row) => {
        const x = X((p.x0 + p.x1) / 2)
        const w = p.label.length * 7.4
        const at = side < 0 ? Math.max(x + 4, w + 2) : Math.min(x - 4, W.value - w - 2)
        return { x, at, row, text: p.label, anchor: side < 0 ? 'end' : 'start', from: MID + (p.h / 2) * scale.value }
      }),
  ),
)
const rowsUsed = computed(() => Math.max(1, ...labels.value.map((l) => l.row + 1)))
const H = computed(() => MID + 95 + rowsUsed.value * 22 + 6)
const beyond = (side: 'left' | 'right') => props.judged.find((j) => j.output === `${side}.beyond_threads`)
const spreadJ = computed(() => props.judged.find((j) => j.output === 'spread_mm'))
</script>

<template>
  <figure>
    <svg
      ref="el"
      :viewBox="`0 0 ${W} ${H}`"
      role="img"
      :aria-label="$t('The stack on the axle, from behind, to scale')"
    >
      <defs>
        <pattern id="thread" width="4" height="8" patternUnits="userSpaceOnUse" patternTransform="skewX(-14)">
          <path d="M0 0v8" stroke="var(--ink)" stroke-width="1" opacity="0.45" />
        </pattern>
      </defs>
      <rect
        :x="X(ends.left)"
        :y="MID - (d / 2) * scale"
        :width="span * scale"
        :height="d * scale"
        fill="var(--panel)"
        stroke="var(--ink)"
      />
      <rect
        :x="X(ends.left)"
        :y="MID - (d / 2) * scale"
        :width="span * scale"
        :height="d * scale"
        fill="url(#thread)"
      />
      <rect
        :x="X(-half)"
        :y="MID - 78"
        :width="half * 2 * scale"
        height="156"
        fill="var(--hide-pale)"
        stroke="var(--ink)"
        stroke-width="1.4"
      />
      <text :x="X(0)" :y="MID - 4" class="t mid b">{{ $t('motor') }}</text>
      <text :x="X(0)" :y="MID + 16" class="t mid num">{{ bare(axle.hub_width_mm?.value, 'mm', 3) }}</text>
      <g v-for="(p, i) in pieces" :key="i">
        <rect
          :x="X(p.x0)"
          :y="p.arm ? MID - 118 : MID - (p.h / 2) * scale"
          :width="(p.x1 - p.x0) * scale"
          :height="p.arm ? 118 + (p.h / 2) * scale : p.h * scale"
          :fill="`var(${p.fill})`"
          stroke="var(--ink)"
          stroke-width="1.2"
        />
        <path
          v-if="p.arm"
          :d="`M${X(p.x0) - 5} ${MID - 92}l${(p.x1 - p.x0) * scale + 10} -9m0 7l${-(p.x1 - p.x0) * scale - 10} 9`"
          stroke="var(--panel)"
          stroke-width="2.5"
        />
        <text v-if="p.arm" :x="X((p.x0 + p.x1) / 2)" :y="MID - 125" class="t mid">
          {{
            $t('to {axle}, {right}', {
              axle: axle[p.x0 < 0 ? 'left' : 'right'].arm?.anchor?.value || $t('anchor'),
              right: bare(armLength(p.x0 < 0 ? 'left' : 'right'), 'mm'),
            })
          }}
        </text>
      </g>
      <path
        v-for="(l, i) in labels"
        :key="`l${i}`"
        :d="`M${l.x} ${l.from}V${MID + 84 + l.row * 22}`"
        stroke="var(--soft)"
        stroke-width="1"
      />
      <text
        v-for="(l, i) in labels"
        :key="`t${i}`"
        :x="l.at"
        :y="MID + 97 + l.row * 22"
        class="t label"
        :text-anchor="l.anchor"
      >
        {{ l.text }}
      </text>
    </svg>
    <figcaption>
      <template v-for="side in ['left', 'right'] as const" :key="side">
        <b v-if="beyond(side)" :class="beyond(side)!.result === 'pass' ? 'holds' : 'stop'">{{
          $t('{n} threads beyond the {side} nut.', { n: figure(beyond(side)!.value, 2), side: term(side) }) + ' '
        }}</b>
      </template>
      <template v-if="spreadJ?.value != null">
        {{ $t('On a gap of') }} <span class="num">{{ withUnit(axle.frame_gap_mm?.value, 'mm', 4) }}</span>
        {{ $t('the build {spreadJ} the frame by', { spreadJ: spreadJ.value < 0 ? $t('closes') : $t('spreads') }) }}
        <span class="num">{{ withUnit(Math.abs(spreadJ.value), 'mm', 2) }}</span> {{ $t('(allowed:') }}
        <span class="num">{{
          $t('{lower} to {upper}', { lower: bare(spreadJ.lower, 'mm', 2), upper: bare(spreadJ.upper, 'mm', 2) })
        }}</span>).
      </template>
      <template v-else>{{
        $t("Left is the rider's left. What is not measured yet is drawn at a usual size.")
      }}</template>
    </figcaption>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  height: auto;
  max-height: 400px;
  display: block;
}
.t {
  font: 400 14px var(--words);
  fill: var(--ink);
}
.t.num {
  font-family: var(--figures);
}
.label {
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 5px;
  stroke-linejoin: round;
}
.mid {
  text-anchor: middle;
}
.b {
  font-weight: 700;
}
figcaption {
  font-size: 14px;
  margin-top: 6px;
}
</style>
