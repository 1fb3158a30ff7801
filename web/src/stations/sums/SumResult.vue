<script setup lang="ts">
import TermHint from '@/parts/TermHint.vue'
import { computed } from 'vue'
import type { Field, Schemas } from '@/api/client'
import { figure, inputName } from '@/lib/words'
import { bare, shown as shownIn, width, withUnit } from '@/state/units'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import WorkingSteps from '@/parts/WorkingSteps.vue'

/** What a sum comes to: judged, figure by figure, with what would make it pass and its working. */
const props = defineProps<{ result: Schemas['CalcResult']; outputs: Field[] }>()
interface Row {
  name: string
  doc: string
  unit?: string
  value: unknown
  u?: number
  lo?: number
  hi?: number
}
function rows(fields: Field[] | undefined, tree: unknown, path = ''): Row[] {
  return (fields ?? []).flatMap((f) => {
    const v = (tree as Record<string, unknown> | undefined)?.[f.name]
    const p = path ? `${path}.${f.name}` : f.name
    if (v === undefined || v === null) return []
    if (f.kind === 'object') return rows(f.fields, v, p)
    if (f.kind === 'list' && f.items === 'object')
      return (v as unknown[]).slice(0, 12).flatMap((x, i) => rows(f.fields, x, `${p}.${i}`))
    if (f.kind === 'list')
      return [
        {
          name: p,
          doc: f.doc ?? '',
          unit: f.unit,
          value: (v as unknown[]).map((x) => (typeof x === 'number' ? figure(shownIn(x, f.unit)) : x)).join('  '),
        },
      ]
    if (f.kind === 'map')
      return Object.entries(v as Record<string, unknown>).map(([k, x]) => ({
        name: `${p}.${k}`,
        doc: '',
        value: typeof x === 'number' ? figure(x) : JSON.stringify(x),
      }))
    const r = props.result
    return [{ name: p, doc: f.doc ?? '', unit: f.unit, value: v, u: r.u?.[p], lo: r.p05?.[p], hi: r.p95?.[p] }]
  })
}
const values = computed(() => rows(props.outputs, props.result))
const ribbons = computed(() => props.result.judged?.filter((j) => j.value !== null) ?? [])
const conditions = computed(() => props.result.judged?.filter((j) => j.value === null) ?? [])
const shown = (r: Row) =>
  typeof r.value === 'number'
    ? withUnit(r.value, r.unit, 4)
    : typeof r.value === 'boolean'
      ? r.value
        ? 'yes'
        : 'no'
      : String(r.value)
</script>

<template>
  <section v-if="ribbons.length || conditions.length" class="panel ribbons">
    <h2>{{ $t('Judged by house limits') }}</h2>
    <p class="small">{{ $t('The shaded band shows the uncertainty') }} <TermHint term="U" />.</p>
    <MarginRibbon v-for="j in ribbons" :key="j.output + j.words" :j="j" />
    <p v-for="j in conditions" :key="j.output + j.words" :class="j.result === 'pass' ? 'holds' : 'stop'">
      {{ j.result === 'pass' ? j.words : $t('Not met: {words}', { words: j.words }) }}
    </p>
  </section>
  <section class="panel">
    <h2>{{ $t('Result') }}</h2>
    <table data-test="outputs">
      <tbody>
        <tr v-for="r in values" :key="r.name">
          <td>
            {{ inputName(r.name, r.doc) }}
            <div class="small num">{{ r.name }}</div>
          </td>
          <td class="num">{{ shown(r) }}</td>
          <td class="num small">
            {{ r.u ? `u ${figure(width(r.u, r.unit), 2)}` : '' }}
            <div v-if="r.lo !== undefined && r.u">
              {{ $t('{lo} to {hi}', { lo: bare(r.lo, r.unit), hi: bare(r.hi, r.unit) }) }}
            </div>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
  <section v-if="result.remedies?.length" class="panel">
    <h2>{{ $t('What would make it pass') }}</h2>
    <ul class="rows">
      <li v-for="(r, i) in result.remedies" :key="i">
        <b v-for="c in r.changes" :key="c.key"
          >{{ c.title }} {{ withUnit(c.to, c.unit)
          }}<span class="small">{{ ' ' + $t('from {from}', { from: withUnit(c.from, c.unit) }) }}</span></b
        >
        <div class="small">{{ r.enough ? `${r.minutes} min` : $t('not enough by itself') }}</div>
      </li>
    </ul>
  </section>
  <section v-if="result.working?.length" class="panel scroll">
    <h2>{{ $t('The working') }}</h2>
    <WorkingSteps :steps="result.working" />
  </section>
</template>

<style scoped>
.ribbons {
  display: grid;
  gap: 14px;
}
</style>
