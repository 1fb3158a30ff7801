<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import { useHarness } from '@/state/harness'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import { at } from '@/lib/sheet'

/** The head from above: the cable from the frame to the turning part, turned by hand from lock to lock. */
const { view, check } = useInspection()
const map = useHarness()
const sweep = computed(() => map.value?.sweep ?? [])
const given = (k: string) =>
  (at(view.value?.sheet, `given.steer_slack.${k}`) as { value?: number | null } | undefined)?.value ?? 0
const asked = computed(() => check('wire.steer')?.judged.find((j) => j.output === 'slack_mm')?.lower ?? 0)
const turn = ref(0)
const ends = computed(() => [sweep.value[0]?.deg ?? -90, sweep.value.at(-1)?.deg ?? 90])
/** Between two points of the sweep that the server worked out. */
const slack = computed(() => {
  const k = sweep.value.findIndex((p) => p.deg >= turn.value)
  const b = sweep.value[k] ?? sweep.value.at(-1)
  const a = sweep.value[Math.max(0, k - 1)] ?? b
  if (!a || !b) return null
  return b.deg === a.deg
    ? b.slack_mm
    : a.slack_mm + ((b.slack_mm - a.slack_mm) * (turn.value - a.deg)) / (b.deg - a.deg)
})
const tightest = computed(() => sweep.value.reduce((m, p) => (p.slack_mm < m.slack_mm ? p : m), sweep.value[0]!))
// From above, ahead is up; a turn to the left goes against the clock.
const R = 86
const scale = computed(() => R / Math.max(60, given('a_mm'), given('b_mm')))
const polar = (r: number, deg: number) => {
  const t = ((deg - 90) * Math.PI) / 180 // zero lies behind the axis, where the frame is
  return { x: r * scale.value * Math.cos(t), y: -r * scale.value * Math.sin(t) }
}
const frame = computed(() => polar(given('a_mm'), 0))
const bar = computed(() => polar(given('b_mm'), given('angle_deg') + turn.value))
const bow = computed(() => {
  const m = { x: (frame.value.x + bar.value.x) / 2, y: (frame.value.y + bar.value.y) / 2 }
  const d = Math.hypot(bar.value.x - frame.value.x, bar.value.y - frame.value.y) || 1
  const out = Math.min(60, Math.max(0, slack.value ?? 0) * 0.5)
  return { x: m.x + (-(bar.value.y - frame.value.y) / d) * out, y: m.y + ((bar.value.x - frame.value.x) / d) * out }
})
const words = computed(() =>
  turn.value === 0
    ? $t('straight ahead')
    : $t('{angle}° to the {side}', { angle: Math.abs(turn.value), side: turn.value > 0 ? $t('left') : $t('right') }),
)
</script>

<template>
  <figure v-if="sweep.length" class="sweep" data-test="sweep">
    <svg
      viewBox="-130 -110 260 220"
      role="img"
      :aria-label="$t('Steering from above, {words}: {slack} slack', { words, slack: withUnit(slack, 'mm') })"
    >
      <g :transform="`rotate(${-turn})`">
        <path d="M-118 -14Q0 -34 118 -14" class="bars" />
        <path d="M0 0V-34" class="stem" />
        <path d="M0 -40V-104" class="wheel" />
      </g>
      <path d="M0 0V104" class="tube" />
      <circle r="12" class="axis" />
      <path
        :d="`M${frame.x} ${frame.y}Q${bow.x} ${bow.y} ${bar.x} ${bar.y}`"
        :class="['cable', { stop: (slack ?? 0) < asked }]"
      />
      <circle :cx="frame.x" :cy="frame.y" r="5" class="end" />
      <circle :cx="bar.x" :cy="bar.y" r="5" class="end" />
    </svg>
    <figcaption>
      <p role="status">
        {{ words }}: <b :class="{ stop: (slack ?? 0) < asked }">{{ withUnit(slack, 'mm') }}</b> {{ $t('slack')
        }}<template v-if="asked">{{ $t('; at least {asked} asked', { asked: withUnit(asked, 'mm') }) }}</template>
      </p>
      <label>
        <span class="sr">{{ $t('Turn of the bars') }}</span>
        <input v-model.number="turn" type="range" :min="-ends[1]!" :max="-ends[0]!" step="1" data-test="turn" />
      </label>
      <p class="small">
        {{
          $t('Tightest {tightest}: {slack_mm}.', {
            tightest:
              tightest.deg === 0
                ? $t('straight ahead')
                : $t('at {angle}° to the {side}', {
                    angle: Math.abs(Math.round(tightest.deg)),
                    side: tightest.deg > 0 ? $t('left') : $t('right'),
                  }),
            slack_mm: withUnit(tightest.slack_mm, 'mm'),
          })
        }}
      </p>
    </figcaption>
  </figure>
</template>

<style scoped>
.sweep {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  margin: 0;
  padding: 10px;
  background: var(--panel);
  color: var(--ink);
}
svg {
  width: 260px;
  max-width: 100%;
}
figcaption {
  flex: 1 1 200px;
}
input {
  width: 100%;
  min-height: 44px;
  accent-color: var(--jade);
}
path {
  fill: none;
  stroke-linecap: round;
}
.bars,
.stem {
  stroke: var(--ink);
  stroke-width: 9;
}
.wheel {
  stroke: var(--tyre);
  stroke-width: 12;
}
.tube {
  stroke: var(--frame);
  stroke-width: 18;
}
.axis {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 3;
}
.cable {
  stroke: var(--copper);
  stroke-width: 4;
}
.cable.stop {
  stroke: var(--plum);
}
.end {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 2;
}
</style>
