<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { compute } from '@/api/client'
import { useExplain } from '@/state/explain'
import { useInspection } from '@/state/inspection'
import { bare, withUnit } from '@/state/units'

/**
 * The trike's footprint from above with its centre of mass and the lines that it tips over. The pack is dragged, and
 * what it does to the corner speed is answered at once; nothing of it is written down.
 */
const { view, check } = useInspection()
const state = computed(() => check('trike.tip'))
const why = useExplain(
  computed(() => state.value?.id),
  'trike-tip',
)
/** Only a whole weighing has a height. */
const base = computed(() => (why.value?.input && 'h_mm' in why.value.input ? why.value.input : null))
const packKg = computed(() => base.value?.pack_kg ?? view.value?.sheet.packs?.[0]?.mass_kg?.value ?? null)
const moved = ref({ back: 0, right: 0, up: 0 })
const radius = ref(5)
const slope = ref(0)
/** The centre of mass goes with the pack by the pack's share of the whole. */
const tried = computed(() => {
  const b = base.value
  if (!b) return null
  const share = packKg.value && b.total_kg ? packKg.value / b.total_kg : 0
  const toward = b.layout === 'delta' ? moved.value.back : -moved.value.back
  return {
    ...b,
    x_mm: b.x_mm + share * toward,
    y_mm: b.y_mm + share * moved.value.right,
    h_mm: b.h_mm + share * moved.value.up,
    corner_m: radius.value,
    slope_deg: slope.value,
  }
})
const asked = refDebounced(tried, 80)
const { data: out } = useQuery({
  queryKey: computed(() => ['tip', asked.value]),
  queryFn: () => compute('trike-tip', asked.value!),
  enabled: computed(() => asked.value !== null),
  placeholderData: keepPreviousData,
})

// From above, the front at the top; mm from the middle of the pair's axle.
const el = useTemplateRef('el')
const W = 300
const H = 330
const k = computed(() =>
  Math.min((W - 90) / (base.value?.track_mm ?? 700), (H - 80) / (base.value?.wheelbase_mm ?? 1100)),
)
const tadpole = computed(() => base.value?.layout === 'tadpole')
const pairY = computed(() => (tadpole.value ? 45 : H - 40))
const along = (fromSingle: number) => {
  const fromPair = (base.value?.wheelbase_mm ?? 0) - fromSingle
  return tadpole.value ? pairY.value + fromPair * k.value : pairY.value - fromPair * k.value
}
const X = (right: number) => W / 2 + right * k.value
const half = computed(() => (base.value?.track_mm ?? 0) / 2)
const triangle = computed(() => `M${X(0)} ${along(0)}L${X(half.value)} ${pairY.value}H${X(-half.value)}Z`)
const com = computed(() => tried.value && { x: X(tried.value.y_mm), y: along(tried.value.x_mm) })
const sigma = computed(() => ({
  x: Math.max(4, 2 * (why.value?.u?.y_mm ?? 0) * k.value),
  y: Math.max(4, 2 * (why.value?.u?.x_mm ?? 0) * k.value),
}))
const pack = computed(() => ({ x: X(moved.value.right), y: H / 2 + moved.value.back * k.value }))
let start: { x: number; y: number; back: number; right: number } | null = null
const toPlan = (e: PointerEvent) => {
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(el.value!.getScreenCTM()!.inverse())
  return { x: p.x, y: p.y }
}
function hold(e: PointerEvent) {
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  start = { ...toPlan(e), back: moved.value.back, right: moved.value.right }
}
const within = (v: number, most: number) => Math.round(Math.max(-most, Math.min(most, v)))
function drag(e: PointerEvent) {
  if (!start) return
  const p = toPlan(e)
  moved.value = {
    ...moved.value,
    back: within(start.back + (p.y - start.y) / k.value, 800),
    right: within(start.right + (p.x - start.x) / k.value, 400),
  }
}
function nudge(e: KeyboardEvent) {
  const step = { ArrowUp: [-20, 0], ArrowDown: [20, 0], ArrowLeft: [0, -20], ArrowRight: [0, 20] }[e.key]
  if (!step) return
  e.preventDefault()
  moved.value = {
    ...moved.value,
    back: within(moved.value.back + step[0]!, 800),
    right: within(moved.value.right + step[1]!, 400),
  }
}
const place = computed(() => {
  const { back, right } = moved.value
  const a = back ? `${withUnit(Math.abs(back), 'mm')} ${back > 0 ? 'back' : 'forward'}` : ''
  const b = right ? `${withUnit(Math.abs(right), 'mm')} to the ${right > 0 ? 'right' : 'left'}` : ''
  return [a, b].filter(Boolean).join(', ') || 'where it is'
})
</script>

<template>
  <section v-if="state" class="panel" data-test="trike-plan">
    <header>
      <h2>Footprint, from above</h2>
      <span class="small">the front is up; drag the pack</span>
    </header>
    <div v-if="base && com" class="plan">
      <svg
        ref="el"
        :viewBox="`0 0 ${W} ${H}`"
        role="group"
        aria-label="Footprint with the centre of mass"
        @pointermove="drag"
        @pointerup="start = null"
      >
        <path :d="triangle" class="foot" />
        <rect :x="X(0) - 5" :y="along(0) - 22" width="10" height="44" rx="4" class="wheel" />
        <rect
          v-for="s in [-1, 1]"
          :key="s"
          :x="X(s * half) - 5"
          :y="pairY - 22"
          width="10"
          height="44"
          rx="4"
          class="wheel"
        />
        <ellipse :cx="com.x" :cy="com.y" :rx="sigma.x" :ry="sigma.y" class="spread" />
        <path :d="`M${com.x - 9} ${com.y}h18M${com.x} ${com.y - 9}v18`" class="com" />
        <text :x="com.x + 13" :y="com.y - 8">centre of mass</text>
        <g
          v-if="packKg"
          class="pack"
          role="slider"
          tabindex="0"
          aria-label="Pack, moved by arrow keys"
          aria-valuemin="-800"
          aria-valuemax="800"
          :aria-valuenow="moved.back"
          :aria-valuetext="place"
          data-test="plan-pack"
          @pointerdown="hold"
          @keydown="nudge"
        >
          <rect :x="pack.x - 16" :y="pack.y - 22" width="32" height="44" />
          <text :x="pack.x + 21" :y="pack.y + 4">pack</text>
        </g>
      </svg>
      <div class="told">
        <p class="big num" role="status" data-test="corner">{{ withUnit(out?.corner_kmh ?? null, 'km/h') }}</p>
        <p class="small">in a bend of {{ withUnit(radius, 'm') }}, before it tips</p>
        <p>
          Tips at <b class="num">{{ bare(out?.tip_g ?? null, 'g', 2) }} g</b> on the level,
          <b class="num">{{ bare(out?.tip_slope_g ?? null, 'g', 2) }} g</b> on the slope; braking in the bend
          <b class="num">{{ bare(out?.tip_brake_g ?? null, 'g', 2) }} g</b>. A tilt table would show
          <b class="num">{{ withUnit(out?.tilt_deg ?? null, '°') }}</b>.
        </p>
        <p v-if="out?.pitches" class="stop">It goes over its end when braked.</p>
        <p class="small">
          Pack {{ place
          }}{{ moved.up ? `, ${withUnit(Math.abs(moved.up), 'mm')} ${moved.up > 0 ? 'higher' : 'lower'}` : '' }}.
        </p>
        <label v-if="packKg"
          ><span class="small">pack higher or lower</span>
          <input v-model.number="moved.up" type="range" min="-600" max="600" step="20" data-test="plan-up"
        /></label>
        <label
          ><span class="small">radius of the bend</span>
          <input v-model.number="radius" type="range" min="2" max="30" step="1" data-test="plan-radius"
        /></label>
        <label
          ><span class="small">side slope {{ withUnit(slope, '°') }}, falling outward</span>
          <input v-model.number="slope" type="range" min="-10" max="15" step="1"
        /></label>
      </div>
    </div>
    <p v-else class="small">
      Lacks: {{ [...new Set(state.needs.map((n) => n.title))].join(', ') }}. Wheels on scales, level, then with the
      single wheel's end raised.
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
.pack {
  cursor: grab;
}
.pack rect {
  fill: var(--hide);
  stroke: var(--ink);
  stroke-width: 2;
}
.pack:focus-visible {
  outline: none;
}
.pack:focus-visible rect {
  stroke: var(--copper);
  stroke-width: 4;
}
.big {
  font: 700 46px/1.1 var(--figures);
  margin: 0;
}
label {
  display: block;
}
input {
  width: 100%;
  min-height: 40px;
  accent-color: var(--jade);
}
</style>
