<script setup lang="ts">
import { useDrawnWidth } from '@/lib/drawn'
import { scaleLinear } from 'd3-scale'
import { computed, useTemplateRef } from 'vue'
import { withUnit } from '@/state/units'
import { figure } from '@/lib/words'

/** The chain from above: ring plane, cassette, and the slant to its outermost cogs. Across, the scale is drawn out. */
const props = defineProps<{
  ring: number
  cassette: number
  cogs: number
  half: number
  stay: number
  big: number
  small: number
  limit: number
}>()
const el = useTemplateRef('el')
const W = useDrawnWidth(el, 700)
const H = 240
const across = computed(() => {
  const lo = Math.min(props.ring, props.cassette - props.half) - 14
  const hi = Math.max(props.ring, props.cassette + props.half) + 8
  return scaleLinear([lo, hi], [28, H - 40])
})
const along = computed(() =>
  scaleLinear([0, props.stay], [W.value < 500 ? 62 : 110, W.value - (W.value < 500 ? 84 : 120)]),
)
const cog = (i: number) => props.cassette - props.half + (props.cogs > 1 ? (2 * props.half * i) / (props.cogs - 1) : 0)
const big = computed(() => props.cassette - props.half)
const small = computed(() => props.cassette + props.half)
const over = (deg: number) => Math.abs(deg) > props.limit
</script>

<template>
  <svg
    ref="el"
    :viewBox="`0 0 ${W} ${H}`"
    role="img"
    :aria-label="
      $t('Chain line from above: {ring} innermost cog at {big} degrees, outermost at {small}', {
        ring: withUnit(big, 'mm'),
        big: figure(props.big, 2),
        small: figure(props.small, 2),
      })
    "
  >
    <path :d="`M40 ${across(ring)}H${W - 60}`" stroke="var(--line)" stroke-width="1" stroke-dasharray="6 5" />
    <path
      v-for="(c, i) in [big, small]"
      :key="i"
      :d="`M${along(stay)} ${across(ring)}L${along(0)} ${across(c)}`"
      :stroke="over(i ? props.small : props.big) ? 'var(--plum)' : 'var(--jade)'"
      stroke-width="3"
      fill="none"
    />
    <rect
      v-for="i in cogs"
      :key="`c${i}`"
      :x="along(0) - 46 + (i - 1) * 2"
      :y="across(cog(i - 1)) - 2"
      :width="92 - (i - 1) * 4"
      height="4"
      fill="var(--steel)"
      stroke="var(--ink)"
      stroke-width="0.8"
    />
    <rect
      :x="along(stay) - 76"
      :y="across(ring) - 3"
      width="152"
      height="6"
      fill="var(--hide)"
      stroke="var(--ink)"
      stroke-width="1"
    />
    <text :x="along(0)" :y="across(big) - 10" class="t">
      {{ $t('innermost cog {big}°', { big: figure(props.big, 2) }) }}
    </text>
    <text :x="along(0)" :y="across(small) + 22" class="t">
      {{ $t('outermost {small}°', { small: figure(props.small, 2) }) }}
    </text>
    <text :x="along(stay)" :y="across(ring) - 12" class="t">
      {{ $t('ring, {ring} from the middle', { ring: withUnit(ring, 'mm') }) }}
    </text>
    <text :x="W / 2" :y="H - 8" class="t s">
      {{ $t('stay {stay} · widths drawn out', { stay: withUnit(stay, 'mm') }) }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}
.t {
  font: 400 14px var(--words);
  fill: var(--ink);
  text-anchor: middle;
}
.s {
  fill: var(--soft);
  font-size: 13px;
}
</style>
