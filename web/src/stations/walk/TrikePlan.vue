<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced, useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { api, take, type Judged } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { bare, unitShown, withUnit } from '@/state/units'
import ActButton from '@/parts/ActButton.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import StateNote from '@/parts/StateNote.vue'
import { packsOf, sideView } from '@/parts/geometry'
import { useMoves } from './moves'
import PlanLoad from './PlanLoad.vue'
import SlideField from './SlideField.vue'
import TipFigures from './TipFigures.vue'

/**
 * The trike's footprint from above with its centre of mass and the lines that it tips over. Packs and load are dragged,
 * and what that does to the corner speed is answered at once; nothing of it is written down.
 */
const { id, view, check } = useInspection()
const state = computed(() => check('trike.tip'))
const svg = useTemplateRef('svg')
const { moves, at, place, where, isMoved, picked, hold, drag, letGo, nudge } = useMoves(svg, () => k.value)
const radius = ref(5)
const slope = ref(0)
const brake = ref(0.3)
const tried = computed(() => ({
  corner_m: radius.value,
  slope_deg: slope.value,
  brake_g: brake.value,
  moves: Object.entries(moves.value).map(([load, m]) => ({
    load,
    back_mm: m.back,
    right_mm: m.right,
    up_mm: m.up,
  })),
}))
const asked = refDebounced(tried, 80)
const { data: plan, error } = useQuery({
  queryKey: computed(() => ['trike-plan', id, view.value?.seq, asked.value]),
  queryFn: () => take(api.POST('/api/inspections/{id}/trike-plan', { params: { path: { id } }, body: asked.value })),
  enabled: computed(() => Boolean(state.value)),
  placeholderData: keepPreviousData,
  retry: false,
})
const out = computed(() => plan.value?.tried)
/** What is asked of it as it is tried: of limits on one figure the one that it misses worst, or the strictest. */
const judged = computed(() => {
  const by = new Map<string, Judged>()
  for (const j of out.value?.judged ?? []) {
    const was = by.get(j.output)
    if (j.value !== null && (!was || was.result !== 'fail')) by.set(j.output, j)
  }
  return [...by.values()]
})

// From above, the front at the top. The footprint is drawn as wide as its place.
const { width } = useElementSize(svg)
const W = computed(() => Math.max(240, Math.min(430, width.value || 320)))
const H = 420
const wheelbase = computed(() => plan.value?.wheelbase_mm || 1100)
const track = computed(() => plan.value?.track_mm || 700)
const k = computed(() => Math.min((W.value - 120) / track.value, (H - 130) / wheelbase.value))
const tadpole = computed(() => plan.value?.layout === 'tadpole')
const rearY = computed(() => H - 70)
const X = (right: number) => W.value / 2 + right * k.value
const Y = (forward: number) => rearY.value - forward * k.value
/** Forward of the rear axle, from the way from the single wheel. */
const forward = (fromSingle: number) => (tadpole.value ? fromSingle : wheelbase.value - fromSingle)
const pairAt = computed(() => forward(wheelbase.value))
const triangle = computed(
  () => `M${X(0)} ${Y(forward(0))}L${X(track.value / 2)} ${Y(pairAt.value)}H${X(-track.value / 2)}Z`,
)
const com = computed(() => out.value && { x: X(out.value.y_mm), y: Y(forward(out.value.x_mm)) })
const braked = computed(
  () => out.value && Y(forward(Math.max(-120, Math.min(wheelbase.value + 120, out.value.braked_mm)))),
)
const was = computed(
  () => plan.value?.weighed && { x: X(plan.value.weighed.y_mm), y: Y(forward(plan.value.weighed.x_mm)) },
)
/** Where each load is drawn before it is moved: where the sheet has it. */
const home = computed(() => {
  const s = view.value!.sheet
  const v = sideView(s)
  const packs = packsOf(s, v)
  const scale = wheelbase.value / (v.front.c.x || 1)
  const hold = v.cargo[0]
  return (load: string) => {
    const n = Number(load.split('.')[1])
    const x = load === 'use.load' ? (hold ? (hold.x0 + hold.x1) / 2 : 0) : (packs[n]?.at.x ?? 0)
    return { right: load === 'use.load' ? 0 : (n - (packs.length - 1) / 2) * 130, forward: x * scale }
  }
})
const loads = computed(() =>
  (plan.value?.loads ?? []).map((l) => {
    const h = home.value(l.id)
    const m = at(l.id)
    return { ...l, cargo: l.id === 'use.load', x: X(h.right + m.right), y: Y(h.forward - m.back) }
  }),
)
const hand = computed(() => loads.value.find((l) => l.id === picked.value) ?? loads.value[0] ?? null)

const whole = (v: number, unit: string) => `${bare(v, unit, 0)} ${unitShown(unit)}`
const upper = (w: string) => w.charAt(0).toUpperCase() + w.slice(1)
</script>

<template>
  <section v-if="state" class="panel" data-test="trike-plan">
    <header>
      <h2>{{ $t('Footprint, from above') }}</h2>
      <span class="small">{{ $t('front at the top; drag what can be moved') }}</span>
    </header>
    <StateNote :error="error" />
    <div v-if="out && com" class="plan">
      <svg
        ref="svg"
        :viewBox="`0 0 ${W} ${H}`"
        role="group"
        :aria-label="$t('Footprint with the centre of mass')"
        @pointermove="drag"
        @pointerup="letGo"
        @pointercancel="letGo"
      >
        <path :d="triangle" class="foot" />
        <rect :x="X(0) - 6" :y="Y(forward(0)) - 26" width="12" height="52" rx="4" class="wheel" />
        <rect
          v-for="s in [-1, 1]"
          :key="s"
          :x="X((s * track) / 2) - 6"
          :y="Y(pairAt) - 26"
          width="12"
          height="52"
          rx="4"
          class="wheel"
        />
        <text :x="X(0) + 12" :y="Y(forward(0)) + (tadpole ? 20 : -12)">{{ withUnit(out.single_kg, 'kg') }}</text>
        <text :x="X(-track / 2) - 10" :y="Y(pairAt) + 42" text-anchor="middle">{{ withUnit(out.left_kg, 'kg') }}</text>
        <text :x="X(track / 2) + 10" :y="Y(pairAt) + 42" text-anchor="middle">{{ withUnit(out.right_kg, 'kg') }}</text>
        <PlanLoad
          v-for="l in loads"
          :key="l.id"
          :l="l"
          :back="at(l.id).back"
          :words="where(l.id)"
          @focus="picked = l.id"
          @pointerdown="hold($event, l.id)"
          @keydown="nudge($event, l.id)"
        />
        <path v-if="was && isMoved" :d="`M${was.x - 6} ${was.y}h12M${was.x} ${was.y - 6}v12`" class="was" />
        <ellipse
          :cx="com.x"
          :cy="com.y"
          :rx="Math.max(3, out.u_y_mm * k)"
          :ry="Math.max(3, out.u_x_mm * k)"
          class="spread"
        />
        <template v-if="braked !== null && brake">
          <path :d="`M${com.x} ${com.y}V${braked}`" class="push" />
          <circle :cx="com.x" :cy="braked" r="4" class="pushed" />
          <path :d="`M${com.x - 6} ${braked}H58`" class="leader" />
          <text x="4" :y="braked! + 4">{{ $t('braked') }}</text>
        </template>
        <path :d="`M${com.x - 9} ${com.y}h18M${com.x} ${com.y - 9}v18`" class="com" />
        <path :d="`M${com.x + 12} ${com.y}H${W - 56}`" class="leader" />
        <text :x="W - 50" :y="com.y + 4" class="b">{{ $t('weight') }}</text>
      </svg>
      <div class="told">
        <TipFigures :out="out" :radius="radius" />
        <template v-if="hand">
          <p class="small" aria-live="polite">
            {{ upper(hand.name) }} ({{ withUnit(hand.kg, 'kg') }}) {{ where(hand.id) }}.
          </p>
          <SlideField
            :model-value="at(hand.id).up"
            :words="$t('{name} higher or lower', { name: hand.name })"
            :of="[-800, 800, 20]"
            data-test="plan-up"
            @update:model-value="place(hand.id, { up: $event })"
          />
        </template>
        <SlideField
          v-model="radius"
          :words="$t('radius of the bend, {radius}', { radius: whole(radius, 'm') })"
          :of="[2, 30, 1]"
          data-test="plan-radius"
        />
        <SlideField
          v-model="slope"
          :words="$t('side slope {slope}, falling outward', { slope: withUnit(slope, '°') })"
          :of="[-10, 15, 1]"
        />
        <SlideField
          v-model="brake"
          :words="$t('braking {brake} g', { brake: bare(brake, 'g', 2) })"
          :of="[0, 0.8, 0.05]"
          data-test="plan-brake"
        />
        <ActButton v-if="isMoved" variant="text" @click="moves = {}">{{ $t('Put everything back') }}</ActButton>
      </div>
    </div>
    <div v-if="judged.length" class="ribbons">
      <MarginRibbon v-for="j in judged" :key="j.output + j.words + (j.lower ?? '')" :j="j" />
    </div>
    <p v-if="plan && !out" class="small">
      {{
        $t("Missing: {readings}. Wheels on scales, level, then with the single wheel's end raised.", {
          readings: [...new Set(state.needs.map((n) => n.title))].join(', '),
        })
      }}
    </p>
    <p v-if="out && plan!.loads.length === 0" class="small">
      {{ $t('Nothing can be moved yet: the mass of no pack and no load is known.') }}
    </p>
  </section>
</template>

<style scoped>
.plan {
  display: grid;
  grid-template-columns: minmax(220px, 5fr) minmax(200px, 6fr);
  gap: 8px 22px;
  align-items: center;
}
@media (max-width: 620px) {
  .plan {
    grid-template-columns: minmax(0, 1fr);
  }
}
svg {
  width: 100%;
  touch-action: none;
}
text {
  font: 400 13px var(--words);
  fill: var(--ink);
}
.b {
  font-weight: 700;
}
.foot {
  fill: var(--jade-pale);
  stroke: var(--jade);
  stroke-width: 2;
}
.wheel {
  fill: var(--tyre);
}
.spread {
  fill: none;
  stroke: var(--copper);
  stroke-dasharray: 4 3;
}
.com {
  stroke: var(--ink);
  stroke-width: 2.5;
}
.was {
  stroke: var(--soft);
  stroke-width: 1.5;
}
.push {
  stroke: var(--copper);
  stroke-width: 1.5;
}
.pushed {
  fill: var(--copper);
}
.leader {
  stroke: var(--soft);
  stroke-dasharray: 2 4;
}
.ribbons {
  margin-top: 10px;
}
</style>
