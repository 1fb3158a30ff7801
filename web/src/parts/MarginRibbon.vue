<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, useId } from 'vue'
import { scaleLinear } from 'd3-scale'
import type { Judged } from '@/api/client'
import { shown, width, withUnit } from '@/state/units'
import { figure } from '@/lib/words'

/**
 * One judged number: hatched outside its limits, pale inside, a tick for the
 * value, a soft band for its uncertainty (U = 2u), and the judgement in words.
 */
const props = defineProps<{ j: Judged; ghost?: number | null }>()
const pid = useId()
const W = 470
const value = computed(() => props.j.value)
const U = computed(() => 2 * props.j.u)
const scale = computed(() => {
  const lo = props.j.lower
  const hi = props.j.upper
  const v = value.value ?? lo ?? hi ?? 0
  const points = [v - U.value, v + U.value]
  if (lo !== null) points.push(lo)
  if (hi !== null) points.push(hi)
  if (props.ghost !== null && props.ghost !== undefined) points.push(props.ghost)
  let a = Math.min(...points)
  let b = Math.max(...points)
  const room = Math.max((b - a) * 0.35, Math.abs(b) * 0.12, 1e-9)
  a = lo === null && hi !== null && hi > 0 && a >= 0 ? 0 : a - room
  b += room
  return scaleLinear([a, b], [0, W]).clamp(true)
})
const inside = computed(() => {
  const x0 = props.j.lower === null ? 0 : scale.value(props.j.lower)
  const x1 = props.j.upper === null ? W : scale.value(props.j.upper)
  return { x: x0, width: Math.max(0, x1 - x0) }
})
const band = computed(() => {
  if (value.value === null || U.value === 0) return null
  const x0 = scale.value(value.value - U.value)
  return { x: x0, width: Math.max(6, scale.value(value.value + U.value) - x0) }
})
const asked = computed(() => {
  const { lower, upper, unit } = props.j
  if (lower !== null && upper !== null)
    return $t('{lower} to {upper} asked', { lower: figure(shown(lower, unit)), upper: withUnit(upper, unit) })
  if (lower !== null) return $t('at least {lower} asked', { lower: withUnit(lower, unit) })
  return $t('at most {upper} asked', { upper: withUnit(upper, unit) })
})
const said = computed(() => {
  const p = Math.round(props.j.p_conform * 100)
  switch (props.j.result) {
    case 'pass':
      return $t('holds')
    case 'fail':
      return $t('fails')
    case 'doubt_in':
      return $t('inside, not sure ({p} % likely)', { p })
  }
  return $t('outside, not sure ({p} % likely inside)', { p })
})
const tone = computed(() => ({ pass: 'holds', fail: 'stop' })[props.j.result] ?? 'attend')
const limits = computed(() => [props.j.lower, props.j.upper].filter((x): x is number => x !== null))
const label = computed(() => `${props.j.words}: ${withUnit(value.value, props.j.unit)}, ${asked.value}, ${said.value}`)
const at = (x: number) => `${Math.min(91, Math.max(9, (x / W) * 100))}%`
</script>

<template>
  <figure class="ribbon" :aria-label="label" role="img">
    <figcaption>
      <span>{{ j.words }}</span>
      <b :class="tone">{{ said }}</b>
    </figcaption>
    <div class="value num" :style="{ left: at(scale(value ?? 0)) }">{{ withUnit(value, j.unit) }}</div>
    <svg :viewBox="`0 0 ${W} 22`" preserveAspectRatio="none" aria-hidden="true">
      <defs>
        <pattern :id="pid" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" fill="var(--copper-pale)" />
          <path d="M0 0v7" stroke="var(--copper)" stroke-width="1.6" opacity="0.55" />
        </pattern>
      </defs>
      <rect :width="W" height="20" y="1" :fill="`url(#${pid})`" stroke="var(--line)" />
      <rect v-bind="inside" y="1" height="20" fill="var(--jade-pale)" stroke="var(--jade)" />
      <rect v-if="band" v-bind="band" y="6" height="10" rx="5" fill="var(--jade)" opacity="0.45" />
      <path
        v-if="ghost !== null && ghost !== undefined"
        :d="`M${scale(ghost)} 0v22`"
        stroke="var(--copper)"
        stroke-width="3"
        stroke-dasharray="4 2"
      />
      <path
        v-if="value !== null"
        :d="`M${scale(value)} -3v28`"
        stroke="var(--ink)"
        stroke-width="3"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <div class="under">
      <span v-for="x in limits" :key="x" class="num limit" :style="{ left: at(scale(x)) }">{{
        figure(shown(x, j.unit))
      }}</span>
      <span class="asked">{{ asked }}{{ U ? ` · U ${figure(width(U, j.unit), 2)}` : '' }}</span>
    </div>
  </figure>
</template>

<style scoped>
.ribbon {
  min-width: 0;
}
figcaption {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  font-size: 14px;
}
.value,
.limit {
  position: relative;
  display: inline-block;
  transform: translateX(-50%);
  white-space: nowrap;
}
.value {
  font-weight: 700;
  font-size: 14.5px;
}
svg {
  width: 100%;
  height: 24px;
  display: block;
  overflow: visible;
}
.under {
  position: relative;
  height: 20px;
  font-size: 13px;
  color: var(--soft);
}
.limit {
  position: absolute;
  top: 1px;
  color: var(--ink);
}
.asked {
  position: absolute;
  right: 0;
  top: 1px;
  background: var(--panel);
  padding-left: 8px;
}
</style>
