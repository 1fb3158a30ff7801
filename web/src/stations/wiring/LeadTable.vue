<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import { useHarness } from '@/state/harness'
import { useInspection } from '@/state/inspection'
import { at, without } from '@/lib/sheet'
import { outcomeWord } from '@/lib/words'
import SheetField from '@/parts/SheetField.vue'
import EndPick from './EndPick.vue'
import { called, usual } from './harness'
import { bare, unitShown, withUnit } from '@/state/units'

/** The power leads of the vehicle: from where, how long, how thick, and what guards them. */
const { view, check, set, add: addTo, settled, locked } = useInspection()
const leads = computed(() => view.value?.sheet.leads ?? [])
const chosen = defineModel<number | null>({ default: null })
const current = computed(() => (leads.value.length ? Math.min(chosen.value ?? 0, leads.value.length - 1) : null))
const columns = [
  ['length_m', $t('length'), 'm', $t('length, one way')],
  ['area_mm2', $t('copper'), 'mm²', $t('copper')],
  ['awg', '', '', $t('or American gauge')],
  ['connector_a', $t('plug'), 'A', $t('weakest plug')],
  ['fuse_a', $t('fuse'), 'A', $t('fuse')],
  ['fuse_v', $t('fuse'), 'V', $t('fuse volts, direct')],
  ['fuse_break_a', $t('breaking'), 'A', $t('fuse breaking capacity')],
] as const
const value = (i: number, k: string) =>
  (at(view.value?.sheet, `given.wire_run_${i}.${k}`) as { value?: number } | undefined)?.value ?? null
/** What is shown in the table; a gauge stands in the copper's column. */
const told = columns.filter(([k]) => k !== 'awg')
const copper = (i: number) =>
  value(i, 'area_mm2') === null && value(i, 'awg') !== null ? `AWG ${value(i, 'awg')}` : ''
const map = useHarness()
/** One way of feeding the vehicle, or the worst of them all. */
const fed = ref(-1)
const flows = (i: number) => {
  const l = map.value?.leads[i]
  if (!l?.peak_a) return null
  return fed.value < 0 || l.to.startsWith('motor') || l.from.startsWith('motor')
    ? l.peak_a
    : Math.abs(l.amps[fed.value] ?? 0)
}
const run = (i: number) => check(`wire.run.${i}`)
/** One figure an output, the gravest judgement of it. */
const sums = (i: number) => {
  const all = (run(i)?.judged ?? []).filter((j) => j.value !== null)
  return all.filter(
    (j, n) => all.findIndex((o) => o.output === j.output && (o.result === 'fail' || j.result !== 'fail')) === n,
  )
}
type Lead = (typeof leads.value)[number]
const name = (l: Lead) =>
  l.from && l.to ? $t('{from} to {to}', { from: called(l.from), to: called(l.to) }) : l.name || $t('a lead')

/** The lead that is listed next on nearly every such vehicle. */
const next = computed(() => usual(view.value!.sheet)[leads.value.length] ?? { from: 'controller.0', to: 'motor.0' })
async function add() {
  chosen.value = leads.value.length
  await addTo('leads', next.value)
}
/** The last of the list goes, with what was measured of it: the others keep their numbers. */
async function takeOff() {
  if (!(await settled('leads'))) return
  const i = leads.value.length - 1
  if (at(view.value?.sheet, `given.wire_run_${i}`)) await set(`given.wire_run_${i}`, null)
  await set('leads', without(leads.value, i))
}
</script>

<template>
  <section class="panel" data-test="leads">
    <header>
      <h2>{{ $t('Power leads') }}</h2>
      <span class="small">{{ $t("each pack's own lead with its fuse, and those behind the controller") }}</span>
    </header>
    <div v-if="leads.length" class="scroll">
      <table>
        <thead>
          <tr>
            <th class="num">{{ $t('no.') }}</th>
            <th>{{ $t('lead') }}</th>
            <th v-for="[k, head, unit] in told" :key="k" class="num">
              {{ head }}{{ unit ? `, ${unitShown(unit)}` : '' }}
            </th>
            <th class="num">{{ $t('current, A') }}</th>
            <th class="num">{{ $t('temp., {unit}', { unit: unitShown('°C') }) }}</th>
            <th>{{ $t('result') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(l, i) in leads"
            :key="i"
            :class="{ bad: run(i)?.outcome === 'fail', here: i === current }"
            :data-lead="i"
          >
            <td class="num">{{ i + 1 }}</td>
            <td>
              <button type="button" class="plain" :aria-current="i === current" @click="chosen = i">
                {{ name(l) }}
              </button>
            </td>
            <td v-for="[k, , unit] in told" :key="k" class="num">
              {{ (k === 'area_mm2' && copper(i)) || bare(value(i, k), unit) }}
            </td>
            <td class="num">{{ bare(flows(i), 'A') }}</td>
            <td class="num">
              {{ map?.leads[i]?.run?.runaway ? $t('burns') : bare(map?.leads[i]?.run?.peak_c ?? null, '°C') }}
            </td>
            <td>{{ run(i) ? outcomeWord(run(i)!.outcome, 'calc') : '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <label v-if="(map?.cases.length ?? 0) > 1" class="field fed">
      <span>{{ $t('Current with') }}</span>
      <select v-model.number="fed">
        <option :value="-1">{{ $t('the worst case') }}</option>
        <option v-for="(c, i) in map!.cases" :key="c" :value="i">{{ c }}</option>
      </select>
    </label>
    <p v-if="!leads.length" class="small">
      {{
        $t(
          'No lead is listed. A pack without a lead and a fuse cannot pass. Where no rating is printed on the fuse, leave it empty: it stays open.',
        )
      }}
    </p>
    <template v-if="current !== null">
      <div class="fields">
        <EndPick :path="`leads.${current}.from`" :title="$t('from')" />
        <EndPick :path="`leads.${current}.to`" :title="$t('to')" />
        <SheetField :path="`leads.${current}.poles`" :title="$t('plug, poles')" />
        <SheetField :path="`leads.${current}.keyed`" :title="$t('plug: how it goes in')" />
        <SheetField :path="`leads.${current}.seal`" :title="$t('plug, against water')" />
        <SheetField :path="`leads.${current}.plug`" :title="$t('plug, in words')" />
        <SheetField
          v-for="[k, , , title] in columns"
          :key="k + current"
          :path="`given.wire_run_${current}.${k}`"
          :title="title"
        />
      </div>
      <p v-if="sums(current).length" class="small" role="status">
        <span v-for="j in sums(current)" :key="j.output + j.severity" :class="{ stop: j.result === 'fail' }">
          {{ j.words }}: {{ withUnit(j.value, j.unit)
          }}<template v-if="j.result === 'fail'">{{ $t(', fails') }}</template
          >.
        </span>
      </p>
      <p v-else-if="run(current)?.needs.length" class="small">
        {{
          $t('Still missing: {join}.', {
            join: run(current)!
              .needs.map((n) => n.title)
              .join(', '),
          })
        }}
      </p>
    </template>
    <div v-if="!locked" class="acts">
      <ActButton data-test="add-lead" @click="add">{{
        $t('{leads}: {from} to {to}', {
          leads: leads.length ? $t('Add another lead') : $t('Add a lead'),
          from: called(next.from),
          to: called(next.to),
        })
      }}</ActButton>
      <ActButton v-if="leads.length" variant="text" data-test="lead-off" @click="takeOff">{{
        $t('Take “{leads}” off the list', { leads: name(leads[leads.length - 1]!) })
      }}</ActButton>
    </div>
  </section>
</template>

<style scoped>
tbody td button {
  text-align: left;
}
tbody td {
  vertical-align: middle;
}
.fields {
  margin: 12px 0 8px;
}
.here td {
  font-weight: 700;
}
.fed {
  max-width: 260px;
  margin-top: 8px;
}
</style>
