<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { bare, unitShown, withUnit } from '@/state/units'

/** What the motors give and what the road takes, over speed: where the two meet, it goes no faster. */
const props = defineProps<{ curve: Schemas['DriveCurve'] }>()
const el = useTemplateRef('el')
const { width } = useElementSize(el)
const W = computed(() => Math.max(280, width.value || 600))
const H = 210
const L = 50
const B = 34
const most = computed(() => Math.max(...props.curve.full_w, ...props.curve.motor_w, ...props.curve.before_w) * 1.3)
const end = computed(() => props.curve.kmh.at(-1) ?? 1)
const X = (v: number) => L + (v / end.value) * (W.value - L - 10)
const Y = (w: number) => H - B - (Math.min(w, most.value) / most.value) * (H - B - 12)
const line = (ys: number[]) =>
  'M' +
  ys
    .map((w, i) => [props.curve.kmh[i]!, w] as const)
    .filter(([, w]) => w <= most.value)
    .map(([v, w]) => `${X(v).toFixed(1)} ${Y(w).toFixed(1)}`)
    .join('L')
const ticks = computed(() => {
  const step = end.value > 40 ? 10 : 5
  return Array.from({ length: Math.floor(end.value / step) + 1 }, (_, i) => i * step)
})
const differs = computed(
  () => props.curve.full_kmh !== null && Math.abs(props.curve.full_kmh - props.curve.balance_kmh) > 0.05,
)
</script>

<template>
  <section class="panel" data-test="drive-curve">
    <header>
      <h2>{{ $t('Stand and road') }}</h2>
      <span class="small">{{ $t('a free wheel spins faster than any road allows') }}</span>
    </header>
    <figure ref="el">
      <svg
        :viewBox="`0 0 ${W} ${H}`"
        role="img"
        :aria-label="
          $t('Power over speed: motor and road meet at {balance_kmh}', {
            balance_kmh: withUnit(curve.balance_kmh, 'km/h'),
          })
        "
      >
        <line :x1="L" :x2="W - 10" :y1="H - B" :y2="H - B" class="axis" />
        <g v-for="v in ticks" :key="v">
          <text :x="X(v)" :y="H - B + 16" text-anchor="middle">{{ bare(v, 'km/h', 0) }}</text>
        </g>
        <text :x="W - 10" :y="H - 3" text-anchor="end">{{ unitShown('km/h') }}</text>
        <text v-for="k in [0.5, 1]" :key="k" :x="L - 6" :y="Y((k * most) / 1.3) + 4" text-anchor="end">
          {{ bare((k * most) / 1.3, 'W', 0) }}
        </text>
        <text x="4" y="12">W</text>
        <path v-if="differs" :d="line(curve.full_w)" class="full" />
        <path v-if="curve.before_w.length" :d="line(curve.before_w)" class="before" />
        <path :d="line(curve.motor_w)" class="motor" />
        <path :d="line(curve.road_w)" class="road" />
        <line :x1="X(curve.balance_kmh)" :x2="X(curve.balance_kmh)" :y1="12" :y2="H - B" class="meet" />
        <text :x="X(curve.balance_kmh) - 5" :y="22" text-anchor="end" class="b">
          {{ withUnit(curve.balance_kmh, 'km/h') }}
        </text>
      </svg>
      <figcaption class="small">
        {{
          $t(
            'Green: what the motors give{differs}. Copper: what the road takes, flat and without wind. {stand_kmh} on the stand come to {balance_kmh} on the road',
            {
              differs: differs ? $t(', dashed at full charge') : '',
              stand_kmh: withUnit(curve.stand_kmh, 'km/h'),
              balance_kmh: withUnit(curve.balance_kmh, 'km/h'),
            },
          )
        }}<template v-if="differs">{{
          $t(', {full_kmh} with full packs', { full_kmh: withUnit(curve.full_kmh, 'km/h') })
        }}</template
        >.
        <template v-if="curve.before_a !== null">
          {{
            $t(
              'Grey: before, with {before_a} instead of {limit_a}: {before_kmh}. What was approved before the change is void.',
              {
                before_a: withUnit(curve.before_a, 'A'),
                limit_a: withUnit(curve.limit_a, 'A'),
                before_kmh: withUnit(curve.before_kmh, 'km/h'),
              },
            )
          }}
        </template>
      </figcaption>
    </figure>
  </section>
</template>

<style scoped>
figure {
  margin: 0;
}
svg {
  display: block;
  width: 100%;
}
text {
  font-size: 12px;
  fill: var(--soft);
}
.b {
  fill: var(--ink);
  font-weight: 700;
}
path {
  fill: none;
  stroke-width: 2;
}
.motor,
.full {
  stroke: var(--jade);
}
.full {
  stroke-dasharray: 6 5;
}
.before {
  stroke: var(--soft);
  stroke-dasharray: 2 4;
}
.road {
  stroke: var(--copper);
}
.axis,
.meet {
  stroke: var(--ink);
}
.meet {
  stroke-dasharray: 2 4;
}
</style>
