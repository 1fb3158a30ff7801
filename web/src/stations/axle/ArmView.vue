<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, term } from '@/lib/words'
import { bare, withUnit } from '@/state/units'

/** One dropout from its side, to scale: slot, axle with its flats, and the arm to its anchor. */
const props = defineProps<{ axle: Schemas['Axle']; side: 'left' | 'right'; rockDeg: number | null }>()
const s = computed(() => props.axle[props.side])
const num = (f: { value: number | null } | undefined, d: number) => f?.value ?? d
const d = computed(() => num(props.axle.d_mm, 12))
const flat = computed(() => num(props.axle.flat_mm, 10))
const slot = computed(() => num(s.value.slot_mm, 10.2))
const tine = computed(() => num(s.value.tine_mm, 9))
const root = computed(() => num(s.value.root_mm, d.value / 2))
const arm = computed(() => s.value.arm)
const length = computed(() => arm.value?.length_mm?.value ?? 95)
const K = computed(() => Math.min(3, 250 / Math.max(100, length.value + 20)))
const CX = 62
const CY = 96
/** The round of the axle between its flats, turned level with the slot. */
const flats = computed(() => {
  const r = (d.value / 2) * K.value
  const h = (Math.min(flat.value, d.value) / 2) * K.value
  const x = Math.sqrt(Math.max(0, r * r - h * h))
  return `M${-x} ${-h}H${x}A${r} ${r} 0 0 1 ${x} ${h}H${-x}A${r} ${r} 0 0 1 ${-x} ${-h}Z`
})
const label = computed(() =>
  arm.value
    ? $t('{side}: arm of {length_mm} to a {arm}', {
        side: props.side,
        length_mm: withUnit(arm.value.length_mm?.value, 'mm'),
        arm: arm.value.anchor?.value || $t('anchor not given'),
      })
    : $t('{side}: no arm', { side: term(props.side) }),
)
</script>

<template>
  <figure>
    <svg viewBox="0 0 340 180" role="img" :aria-label="label">
      <g :transform="`translate(${CX} ${CY})`">
        <!-- the dropout: closed end towards the frame, mouth down -->
        <path
          :d="`M${-(slot / 2 + tine) * K} ${22 * K}V${-root * K}Q${-(slot / 2 + tine) * K} ${-(root + tine) * K} 0 ${-(root + tine) * K}Q${(slot / 2 + tine) * K} ${-(root + tine) * K} ${(slot / 2 + tine) * K} ${-root * K}V${22 * K}H${(slot / 2) * K}V${-(root - slot / 2) * K}A${(slot / 2) * K} ${(slot / 2) * K} 0 0 0 ${(-slot / 2) * K} ${-(root - slot / 2) * K}V${22 * K}Z`"
          fill="var(--steel-pale)"
          stroke="var(--ink)"
          stroke-width="1.2"
        />
        <path v-if="s.closed" :d="`M${(-slot / 2) * K} ${20 * K}h${slot * K}`" stroke="var(--ink)" stroke-width="5" />
        <g v-if="arm">
          <rect
            :x="-13 * K"
            :y="-9 * K"
            :width="(length + 20) * K"
            :height="18 * K"
            :rx="9 * K"
            fill="var(--jade)"
            fill-opacity="0.82"
            stroke="var(--ink)"
            stroke-width="1.2"
          />
          <g :transform="`translate(${length * K} 0)`">
            <template v-if="arm.anchor?.value === 'band'">
              <path
                v-for="n in arm.count || 1"
                :key="n"
                :d="`M${(n - 1) * 11 - 5} ${-16 * K}h10v${32 * K}h-10z`"
                fill="var(--panel)"
                stroke="var(--ink)"
                stroke-width="1.4"
              />
            </template>
            <circle
              v-else-if="arm.anchor?.value === 'bolt'"
              :r="5 * K"
              fill="var(--hide)"
              stroke="var(--ink)"
              stroke-width="1.4"
            />
            <rect
              v-else-if="arm.anchor?.value === 'block'"
              :x="-8 * K"
              :y="-14 * K"
              :width="16 * K"
              :height="28 * K"
              fill="var(--hide)"
              stroke="var(--ink)"
            />
            <path
              v-else
              :d="`M-3 ${-14 * K}v${28 * K}`"
              stroke="var(--copper)"
              stroke-width="3"
              stroke-dasharray="4 3"
            />
          </g>
          <path :d="`M0 ${16 * K + 8}H${length * K}m-6 -4l6 4l-6 4`" stroke="var(--soft)" fill="none" />
          <text :x="(length * K) / 2" :y="16 * K + 24" class="t mid">{{ withUnit(arm.length_mm?.value, 'mm') }}</text>
        </g>
        <circle :r="(d / 2) * K" fill="none" stroke="var(--soft)" stroke-dasharray="2 2" />
        <path :d="flats" fill="var(--panel)" stroke="var(--ink)" stroke-width="1.6" transform="rotate(90)" />
      </g>
      <text x="8" y="18" class="t b">{{ term(side) }}</text>
      <text x="332" y="18" class="t end">
        {{
          arm
            ? `${withUnit(arm.thickness_mm?.value, 'mm', 2)} ${term(arm.material?.value ?? '')}`
            : $t('no arm: dropout and washer alone')
        }}
      </text>
      <text x="8" y="172" class="t">
        {{
          $t('slot {slot_mm}, flats {flat_mm}{rockDeg}', {
            slot_mm: bare(s.slot_mm?.value, 'mm'),
            flat_mm: bare(axle.flat_mm?.value, 'mm'),
            rockDeg: rockDeg !== null ? $t(': rocks {rockDeg}° each way', { rockDeg: figure(rockDeg, 2) }) : '',
          })
        }}
      </text>
    </svg>
  </figure>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}
.t {
  font: 400 13.5px var(--words);
  fill: var(--ink);
}
.mid {
  text-anchor: middle;
}
.end {
  text-anchor: end;
}
.b {
  font-weight: 700;
}
</style>
