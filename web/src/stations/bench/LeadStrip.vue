<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { withUnit } from '@/state/units'
import { computed, useTemplateRef } from 'vue'
import { useDrawnWidth } from '@/lib/drawn'
import { scaleLinear } from 'd3-scale'
import type { Schemas } from '@/api/client'

/** Along each lever's travel: where its switch closed at each pull, where its pads bite. */
const props = defineProps<{ analysis: Schemas['TraceOutput']; asked: number }>()
const box = useTemplateRef('box')
const W = useDrawnWidth(box, 330, 240)
const levers = computed(() =>
  ['left', 'right']
    .map((name) => {
      const pulls = (props.analysis.events ?? []).filter((e) => e.lever === name && e.travel_mm !== null)
      const bitten = pulls.find((e) => e.lead_mm !== null)
      return {
        name,
        at: pulls.map((e) => e.travel_mm!),
        bite: bitten ? bitten.travel_mm! + bitten.lead_mm! : null,
        lead: props.analysis.levers?.[name]?.lead_mm ?? null,
      }
    })
    .filter((l) => l.at.length),
)
const end = computed(() => Math.ceil(Math.max(12, ...levers.value.flatMap((l) => [...l.at, l.bite ?? 0])) + 2))
const x = computed(() => scaleLinear([0, end.value], [4, W.value - 4]))
const short = (l: { lead: number | null }) => l.lead !== null && l.lead < props.asked
const words = (l: { lead: number | null }) =>
  l.lead === null
    ? $t('bite not measured')
    : $t('{distance} {side} the bite', {
        distance: withUnit(l.lead, 'mm', 2),
        side: l.lead < 0 ? $t('after') : $t('before'),
      })
</script>

<template>
  <div v-if="levers.length" ref="box" class="leads">
    <h3>{{ $t("Lead before the bite, along the lever's travel") }}</h3>
    <figure v-for="l in levers" :key="l.name">
      <figcaption>
        <span>{{ $t('{name} lever', { name: term(l.name) }) }}</span><b :class="short(l) ? 'stop' : ''">{{
          words(l)
        }}</b>
      </figcaption>
      <svg
        :viewBox="`0 0 ${W} 42`"
        role="img"
        :aria-label="$t('{name} lever: switch closes {where}', { name: term(l.name), where: words(l) })"
      >
        <path :d="`M${x(0)} 22H${x(end)}`" stroke="var(--line)" stroke-width="2" />
        <rect
          v-if="l.bite !== null"
          :x="x(Math.min(l.bite, Math.max(...l.at)))"
          y="15"
          :width="Math.abs(x(l.bite) - x(Math.max(...l.at)))"
          height="14"
          :fill="short(l) ? 'var(--plum-pale)' : 'var(--jade-pale)'"
        />
        <path v-for="(a, i) in l.at" :key="i" :d="`M${x(a)} 13v18`" stroke="var(--jade)" stroke-width="2" />
        <path v-if="l.bite !== null" :d="`M${x(l.bite)} 9v26`" stroke="var(--ink)" stroke-width="3" />
        <text :x="x(l.at[0]!)" y="9" class="t mid">{{ $t('switch') }}</text>
        <text v-if="l.bite !== null" :x="x(l.bite)" y="7" class="t mid">{{ $t('bite') }}</text>
        <text v-for="m in [0, end]" :key="m" :x="x(m)" y="41" :class="['t', 'num', m ? 'end' : '']">
          {{ m ? withUnit(m, 'mm', 2) : 0 }}
        </text>
      </svg>
    </figure>
  </div>
</template>

<style scoped>
.leads {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(260px, 100%), 1fr));
  gap: 6px 28px;
  margin-top: 12px;
}
h3 {
  grid-column: 1 / -1;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 14px;
}
svg {
  width: 100%;
  overflow: visible;
}
.t {
  font: 400 12.5px var(--words);
  fill: var(--ink);
}
.t.num {
  font-family: var(--figures);
  fill: var(--soft);
}
.mid {
  text-anchor: middle;
}
.end {
  text-anchor: end;
}
</style>
