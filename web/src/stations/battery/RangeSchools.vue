<script setup lang="ts">
import { $t } from '@/lib/say'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import { compute } from '@/api/client'
import { useExplain } from '@/state/explain'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import { outcomeWord } from '@/lib/words'

/** How far, by three schools beside the claim; the road is tried by sliders, and nothing of it is written down. */
const { view, check } = useInspection()
const state = computed(() => check('range.honest'))
const why = useExplain(
  computed(() => state.value?.id),
  'range-estimate',
)
/** As it was weighed, where the check itself was given nothing. */
const kg = computed(() => why.value?.input?.total_kg ?? view.value?.sheet.use.total_kg?.value ?? null)
const road = reactive({ speed_kmh: 20, climb_m_per_km: 0, headwind_kmh: 0 })
watch(
  () => why.value?.input,
  (i) => {
    if (!i) return
    road.speed_kmh = i.speed_kmh ?? 20
    road.climb_m_per_km = i.climb_m_per_km
    road.headwind_kmh = i.headwind_kmh
  },
  { immediate: true },
)
const tried = refDebounced(
  computed(() => (why.value?.input ? { ...why.value.input, total_kg: kg.value, ...road } : null)),
  120,
)
const { data } = useQuery({
  queryKey: computed(() => ['range', tried.value]),
  queryFn: () => compute('range-estimate', tried.value!),
  enabled: computed(() => tried.value !== null),
  placeholderData: keepPreviousData,
})
const out = computed(() => data.value)
/** What each slider's next step takes or gives, by road load. */
const steps = [
  ['speed_kmh', 5],
  ['climb_m_per_km', 5],
  ['headwind_kmh', 5],
] as const
const { data: nudged } = useQuery({
  queryKey: computed(() => ['range-nudged', tried.value]),
  queryFn: () =>
    Promise.all(steps.map(([k, by]) => compute('range-estimate', { ...tried.value!, [k]: tried.value![k] + by }))),
  enabled: computed(() => tried.value !== null && kg.value !== null),
  placeholderData: keepPreviousData,
})
function more(k: string): string {
  const i = steps.findIndex(([s]) => s === k)
  const now = out.value?.road_km
  const then = nudged.value?.[i]?.road_km
  if (now == null || then == null) return ''
  return $t('{steps} more: {then}{now}', {
    steps: steps[i]![1],
    then: then >= now ? '+' : '−',
    now: withUnit(Math.abs(then - now), 'km'),
  })
}
const rows = computed(
  () =>
    [
      [$t('flat rate of the house'), out.value?.flat_km],
      [$t('road load, by the road below'), out.value?.road_km],
      [$t('measured on a trip'), out.value?.measured_km],
    ] as [string, number | null | undefined][],
)
const lacks = (name: string) => (name.startsWith('road') && kg.value === null ? $t('not weighed') : $t('not known'))
const claim = computed(() => why.value?.input?.claim_km ?? null)
const most = computed(() => Math.max(1, claim.value ?? 0, ...rows.value.map(([, km]) => km ?? 0)) * 1.05)
const sliders = [
  ['speed_kmh', $t('speed'), 'km/h', 8, 45],
  ['climb_m_per_km', $t('climb'), 'm/km', -20, 60],
  ['headwind_kmh', $t('headwind'), 'km/h', -30, 40],
] as const
const unit = (u: string, v: number) => (u === 'm/km' ? `${v} m/km` : withUnit(v, u))
</script>

<template>
  <section v-if="state" class="panel" data-test="range">
    <header>
      <h2>{{ $t('Range, by three schools') }}</h2>
      <span :class="['small', { stop: state.outcome === 'fail' }]">{{ outcomeWord(state.outcome, 'calc') }}</span>
    </header>
    <template v-if="out">
      <table>
        <tbody>
          <tr v-for="[name, km] in rows" :key="name">
            <td>{{ name }}</td>
            <td class="bar"><span v-if="km" :style="{ width: `${(km / most) * 100}%` }" /></td>
            <td class="num">{{ km == null ? lacks(name) : withUnit(km, 'km') }}</td>
          </tr>
          <tr v-if="claim" class="claim">
            <td>{{ $t('as claimed') }}</td>
            <td class="bar"><span :style="{ width: `${(claim / most) * 100}%` }" /></td>
            <td class="num">{{ withUnit(claim, 'km') }}</td>
          </tr>
        </tbody>
      </table>
      <div class="sliders">
        <label v-for="[k, name, u, lo, hi] in sliders" :key="k">
          <span
            >{{ name }} <b class="num">{{ unit(u, road[k]) }}</b></span
          >
          <input v-model.number="road[k]" type="range" :min="lo" :max="hi" step="1" :data-slide="k" />
          <span class="small">{{ more(k) }}</span>
        </label>
      </div>
      <p class="small">
        {{
          $t(
            'Can be promised: {promise_km}. The schools lie {spread} % apart. The sliders only try out a road; the figures that count are entered at the check.',
            { promise_km: withUnit(out.promise_km, 'km'), spread: Math.round(out.spread_pct ?? 0) },
          )
        }}
      </p>
    </template>
    <p v-else class="small">
      {{ $t('Missing: {readings}.', { readings: [...new Set(state.needs.map((n) => n.title))].join(', ') }) }}
    </p>
  </section>
</template>

<style scoped>
.bar {
  width: 50%;
}
.bar span {
  display: block;
  height: 18px;
  background: var(--jade);
}
.claim .bar span {
  background: transparent;
  border: 2px dashed var(--copper);
}
.sliders {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 8px 18px;
  margin-top: 10px;
}
.sliders input {
  width: 100%;
  min-height: 44px;
  accent-color: var(--jade);
}
</style>
