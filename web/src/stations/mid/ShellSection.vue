<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { computed, useTemplateRef } from 'vue'
import { useDrawnWidth } from '@/lib/drawn'
import { bare, withUnit } from '@/state/units'

/** The motor in its shell, cut along the tube, to scale: shell, tube, ring, plate, stop. */
export interface Mount {
  shell_mm?: number | null
  kit_min_mm?: number | null
  kit_max_mm?: number | null
  shell_id_mm?: number | null
  spindle_mm?: number | null
  spacer_mm?: number | null
  plate_gap_mm?: number | null
  ring_nm?: number | null
  stop?: { kind?: string; radius_mm?: number | null; gap_mm?: number | null; wrong_side?: boolean } | null
}
const props = defineProps<{ m: Mount; play: number | null; bad: string[] }>()
const K = 3.6
const shell = computed(() => props.m.shell_mm ?? 68)
const bore = computed(() => props.m.shell_id_mm ?? (props.m.spindle_mm ?? 33.5) + 0.2)
const tube = computed(() => props.m.spindle_mm ?? 33.5)
const spacer = computed(() => props.m.spacer_mm ?? 0)
const gap = computed(() => props.m.plate_gap_mm ?? 1)
const stop = computed(() => props.m.stop ?? null)
const radius = computed(() => stop.value?.radius_mm ?? 110)
const MID = 175
const X0 = 190
const X = (mm: number) => X0 + mm * K
const Y = (mm: number) => MID - mm * K
const wall = 4
const bad = (k: string) => props.bad.includes(k)
const label = computed(() =>
  $t('Shell {shell_mm} wide, bore {shell_id_mm}, tube {spindle_mm}, stop {stop}', {
    shell_mm: withUnit(props.m.shell_mm, 'mm'),
    shell_id_mm: bare(props.m.shell_id_mm, 'mm'),
    spindle_mm: bare(props.m.spindle_mm, 'mm'),
    stop: stop.value?.kind ? term(stop.value.kind) : $t('not given'),
  }),
)
/** Too narrow for words in the drawing: they stand under it. */
const el = useTemplateRef('el')
const wide = useDrawnWidth(el, 740)
const narrow = computed(() => wide.value < 560)
const said = computed(() => {
  const m = props.m
  return [
    $t('Left of the drawing is the left side, right the drive side with the motor.'),
    $t('Shell {shell_mm}, kit fits {kit_min_mm} to {kit_max_mm}', {
      shell_mm: withUnit(m.shell_mm, 'mm'),
      kit_min_mm: bare(m.kit_min_mm, 'mm'),
      kit_max_mm: bare(m.kit_max_mm, 'mm'),
    }),
    $t('Bore {shell_id_mm}, tube {spindle_mm}: play {play}', {
      shell_id_mm: bare(m.shell_id_mm, 'mm', 4),
      spindle_mm: bare(m.spindle_mm, 'mm'),
      play: withUnit(props.play, 'mm', 2),
    }),
    $t('Plate, gap {gap}; lock ring {ring}', { gap: bare(m.plate_gap_mm, 'mm', 2), ring: withUnit(m.ring_nm, 'N·m') }),
    stop.value?.kind && stop.value.kind !== 'none'
      ? $t('Stop: {kind} at {radius_mm}{more}', {
          kind: term(stop.value.kind),
          radius_mm: withUnit(stop.value.radius_mm, 'mm'),
          more: stop.value.wrong_side ? $t(', wrong side') : '',
        })
      : stop.value?.kind === 'none'
        ? $t('No stop: friction alone')
        : $t('Stop not given yet'),
  ]
})
</script>

<template>
  <div ref="el">
    <svg viewBox="-40 0 740 400" role="img" :aria-label="label" :class="{ bare: narrow }">
      <!-- motor case on the drive side, its gear housing -->
      <path
        :d="`M${X(shell + spacer)} ${Y(40)}h52q24 0 24 24v${52 * K}q0 40 -40 40h-36z`"
        fill="var(--hide-pale)"
        stroke="var(--ink)"
        stroke-width="1.4"
      />
      <text :x="X(shell + spacer) + 36" :y="MID + 4" class="t mid b">{{ $t('motor') }}</text>
      <!-- tube through the shell -->
      <rect
        :x="X(-26)"
        :y="Y(tube / 2)"
        :width="(shell + spacer + 26) * K"
        :height="tube * K"
        fill="var(--panel)"
        stroke="var(--ink)"
        stroke-width="1.4"
      />
      <text :x="X(shell / 2)" :y="MID + 4" class="t mid">
        {{ $t('tube {spindle_mm}', { spindle_mm: bare(m.spindle_mm, 'mm') }) }}
      </text>
      <!-- shell, cut: two walls -->
      <g fill="var(--frame)" stroke="var(--ink)" stroke-width="1.2">
        <rect :x="X(0)" :y="Y(bore / 2 + wall)" :width="shell * K" :height="wall * K" />
        <rect :x="X(0)" :y="Y(-bore / 2)" :width="shell * K" :height="wall * K" />
      </g>
      <text :x="X(shell / 2)" :y="Y(bore / 2 + wall) - 9" :class="['t mid', { stop: bad('shell_mm') }]">
        {{
          $t('shell {shell_mm}, kit fits {kit_min_mm} to {kit_max_mm}', {
            shell_mm: withUnit(m.shell_mm, 'mm'),
            kit_min_mm: bare(m.kit_min_mm, 'mm'),
            kit_max_mm: bare(m.kit_max_mm, 'mm'),
          })
        }}
      </text>
      <text :x="X(shell / 2)" :y="Y(-bore / 2 - wall) + 20" :class="['t mid', { stop: bad('play_mm') }]">
        {{
          $t('bore {shell_id_mm}: play {play}', {
            shell_id_mm: bare(m.shell_id_mm, 'mm', 4),
            play: withUnit(play, 'mm', 2),
          })
        }}
      </text>
      <rect
        v-if="spacer > 0"
        :x="X(shell)"
        :y="Y(bore / 2 + wall)"
        :width="spacer * K"
        :height="(bore + 2 * wall) * K"
        fill="var(--steel-pale)"
        stroke="var(--ink)"
      />
      <!-- plate that bites, its gap before the ring draws it in -->
      <rect
        :x="X(-gap) - 14"
        :y="Y(bore / 2 + 12)"
        width="14"
        :height="(bore + 24) * K"
        fill="var(--steel)"
        stroke="var(--ink)"
      />
      <text :x="X(-gap) - 18" :y="Y(bore / 2 + 12) - 9" :class="['t end', { stop: bad('plate_gap_mm') }]">
        {{ $t('plate, gap {plate_gap_mm}', { plate_gap_mm: bare(m.plate_gap_mm, 'mm', 2) }) }}
      </text>
      <!-- lock ring -->
      <rect
        :x="X(-gap) - 38"
        :y="Y(tube / 2 + 5)"
        width="24"
        :height="(tube + 10) * K"
        fill="var(--hide)"
        stroke="var(--ink)"
      />
      <text :x="X(-26) - 8" :y="MID + 4" class="t end">
        {{ $t('lock ring {ring_nm}', { ring_nm: withUnit(m.ring_nm, 'N·m') }) }}
      </text>
      <!-- the stop against the push of the chain -->
      <g v-if="stop?.kind && stop.kind !== 'none'">
        <path
          :d="`M${X(shell + spacer) + 30} ${Y(-28)}V${Math.min(370, Y(-radius))}`"
          stroke="var(--ink)"
          stroke-width="7"
          fill="none"
        />
        <rect
          :x="X(shell + spacer) + 10"
          :y="Math.min(370, Y(-radius)) - 5"
          width="40"
          height="10"
          :fill="stop.wrong_side ? 'var(--plum)' : 'var(--jade)'"
          stroke="var(--ink)"
        />
        <text :x="X(shell + spacer)" :y="Math.min(370, Y(-radius)) + 4" class="t end">
          {{
            $t('{kind} at {radius_mm}{more}{last}', {
              kind: term(stop.kind),
              radius_mm: withUnit(stop.radius_mm, 'mm'),
              more: stop.gap_mm ? $t(', gap {gap_mm}', { gap_mm: bare(stop.gap_mm, 'mm', 2) }) : '',
              last: stop.wrong_side ? $t(', wrong side') : '',
            })
          }}
        </text>
      </g>
      <text v-else :x="X(shell + spacer) - 8" y="370" class="t end attend">
        {{ stop?.kind === 'none' ? $t('no stop: friction alone') : $t('stop not given yet') }}
      </text>
      <text x="-30" y="24" class="t small">{{ $t('left') }}</text>
      <text x="688" y="24" class="t small end">{{ $t('drive side') }}</text>
    </svg>
    <ul v-if="narrow" class="small">
      <li v-for="l in said" :key="l">{{ l }}</li>
    </ul>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  max-height: 380px;
  display: block;
}
.bare text {
  display: none;
}
.t {
  font: 400 14px var(--words);
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
.t.stop {
  fill: var(--plum-text);
  font-weight: 700;
}
.t.attend {
  fill: var(--copper-text);
}
.t.small {
  fill: var(--soft);
  font-size: 13px;
}
</style>
