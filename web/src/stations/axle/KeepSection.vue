<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import type { CheckState } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { at } from '@/lib/sheet'
import { figure } from '@/lib/words'
import { useExplain } from '@/state/explain'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import SheetField from '@/parts/SheetField.vue'
import { withUnit } from '@/state/units'

/**
 * The disc brake and the slot, from the disc's side with the vehicle going to the left: where the pads
 * grip, which way the slot opens, and what the brake does to the axle.
 */
const props = defineProps<{ c: CheckState }>()
const { view } = useInspection()
const why = useExplain(
  computed(() => props.c.id),
  'axle-keep',
)
const out = computed(() => (props.c.judged.length ? why.value?.result : undefined))
const g = computed(
  () => at(view.value?.sheet, `given.${props.c.given}`) as Record<string, { value?: number }> | undefined,
)
const n = (k: string, d: number) => g.value?.[k]?.value ?? d
const caliper = computed(() => n('caliper_deg', 60))
const slot = computed(() => n('slot_out_deg', 0))
const fields: [string, string][] = [
  ['wheel_r_mm', $t('radius of the wheel')],
  ['rotor_r_mm', $t('axle to the middle of the pads')],
  ['caliper_deg', $t('pads behind straight up')],
  ['slot_out_deg', $t('mouth forward of straight down')],
  ['wheel_load_kg', $t('load on the wheel, standing')],
  ['retention', $t('positively located (a tab washer does not count)')],
]
const R = 74
/** A direction on the drawing: degrees from straight up, positive to the rear, which is to the right. */
const dir = (deg: number) => ({ x: Math.sin((deg * Math.PI) / 180), y: -Math.cos((deg * Math.PI) / 180) })
const pads = computed(() => ({ x: R * dir(caliper.value).x, y: R * dir(caliper.value).y }))
/** The slot's way out: from straight down, positive forward, which is to the left. */
const mouth = computed(() => ({
  x: -Math.sin((slot.value * Math.PI) / 180),
  y: Math.cos((slot.value * Math.PI) / 180),
}))
const sized = (f: number) => 16 + 54 * Math.min(1, Math.abs(f) / Math.max(1, out.value?.hold_n ?? 1, Math.abs(f)))
const pull = computed(() => (out.value ? sized(out.value.eject_n) * Math.sign(out.value.eject_n) : 0))
const ribbons = computed(() => props.c.judged.filter((j) => j.value !== null))
</script>

<template>
  <section class="panel" data-test="keep">
    <header>
      <h2>{{ c.title }}</h2>
      <span class="small">{{ $t("from the disc's side, riding to the left") }}</span>
    </header>
    <div class="keep">
      <svg
        viewBox="-120 -110 240 230"
        role="img"
        :aria-label="
          $t(
            'Disc with pads {caliper} degrees behind straight up; slot opening {slot} degrees forward of straight down',
            { caliper: figure(caliper), slot: figure(slot) },
          )
        "
      >
        <circle :r="R" fill="none" stroke="var(--steel)" stroke-width="12" />
        <g :transform="`translate(${mouth.x * 10} ${mouth.y * 10})`">
          <line
            x1="0"
            y1="0"
            :x2="mouth.x * 34"
            :y2="mouth.y * 34"
            stroke="var(--line)"
            stroke-width="26"
            stroke-linecap="butt"
          />
          <line x1="0" y1="0" :x2="mouth.x * 34" :y2="mouth.y * 34" stroke="var(--panel)" stroke-width="14" />
        </g>
        <circle r="8" fill="var(--ink)" />
        <g :transform="`translate(${pads.x} ${pads.y}) rotate(${caliper})`">
          <rect x="-16" y="-14" width="32" height="28" fill="var(--jade)" stroke="var(--ink)" />
        </g>
        <g v-if="out" :class="out.pushes_in ? 'in' : 'pulls'">
          <line x1="0" y1="0" :x2="mouth.x * pull" :y2="mouth.y * pull" stroke-width="4" />
          <circle :cx="mouth.x * pull" :cy="mouth.y * pull" r="6" />
        </g>
        <text :x="pads.x" :y="pads.y - 20" text-anchor="middle">{{ $t('pads') }}</text>
        <text :x="mouth.x * 102" :y="mouth.y * 102 + 5" text-anchor="middle">{{ $t("slot's mouth") }}</text>
      </svg>
      <div>
        <p v-if="out && out.pushes_in">{{ $t('Braking seats the axle in its slots.') }}</p>
        <p v-else-if="out">
          {{ $t('The pads grip with') }} <b class="num">{{ withUnit(out.pad_n, 'N', 2) }}</b>
          {{ $t('and pull the axle toward the mouth with') }} <b class="num">{{ withUnit(out.eject_n, 'N', 2) }}</b>{{
            $t('; the nut holds')
          }}
          <b class="num">{{ withUnit(out.hold_n, 'N', 2) }}</b>.
        </p>
        <p v-else class="small">
          {{ $t('Readings missing: {readings}.', { readings: [...new Set(c.needs.map((x) => x.title))].join(', ') }) }}
        </p>
        <div class="ribbons"><MarginRibbon v-for="j in ribbons" :key="j.output + j.severity" :j="j" /></div>
      </div>
    </div>
    <div class="fields">
      <SheetField v-for="[k, title] in fields" :key="k" :path="`given.${c.given}.${k}`" :title="title" />
    </div>
  </section>
</template>

<style scoped>
.keep {
  display: grid;
  grid-template-columns: minmax(200px, 280px) minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
svg text {
  font-size: 13px;
  fill: var(--ink);
}
.pulls line {
  stroke: var(--copper);
}
.pulls circle {
  fill: var(--copper);
}
.in line {
  stroke: var(--jade);
}
.in circle {
  fill: var(--jade);
}
.ribbons {
  display: grid;
  gap: 10px;
  margin-top: 8px;
}
@media (max-width: 640px) {
  .keep {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
