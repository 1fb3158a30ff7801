<script setup lang="ts">
import { $t } from '@/lib/say'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { bare, withUnit, unitShown } from '@/state/units'
import { outcomeWord, term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import HoldStrip, { type Strip } from '@/parts/HoldStrip.vue'
import SheetField from '@/parts/SheetField.vue'
import RangeSchools from './RangeSchools.vue'

/** The packs side by side: charge, who feeds what share, and what holds each of them on. */
const { id, view, add, check, locked } = useInspection()
const { data: table } = useQuery({
  queryKey: computed(() => ['packs', id, view.value?.seq]),
  queryFn: () => take(api.GET('/api/inspections/{id}/packs', { params: { path: { id } } })),
  placeholderData: keepPreviousData,
})
const packs = computed(() => view.value?.sheet.packs ?? [])
const several = computed(() => packs.value.length > 1)
/** A range was worked out: each pack's share of it stands in the table. */
const ranged = computed(() => (table.value?.packs ?? []).some((p) => p.range_km !== null))
const chosen = ref(0)
const at = computed(() => Math.min(chosen.value, packs.value.length - 1))
const match = computed(() => check(table.value?.check ?? ''))
const together = computed(() => table.value?.together)
const mode = computed(
  () =>
    ({
      single: $t('one pack'),
      combiner: $t('over a combiner'),
      direct: $t('joined straight'),
      swap: $t('one at a time, changed over'),
    })[table.value?.mode ?? ''],
)
const mount = computed(() => table.value?.packs[at.value]?.mount)
const hold = computed(() => check(table.value?.packs[at.value]?.hold ?? ''))
const links = computed<{ name: string; strips: Strip[] }[]>(() => {
  const m = mount.value
  if (!m) return []
  // Straps are lent, whatever they join.
  const strips = (not: string): Strip[] =>
    m.parts
      .filter((p) => p.link !== not || p.kind === 'strap')
      .map((p) => ({
        name: `${p.count > 1 ? `${p.count} × ` : ''}${term(p.kind)}`,
        v: p.n,
        fill: p.kind === 'strap' ? 'none' : 'var(--jade)',
        lent: p.kind === 'strap' && m.lent,
      }))
  return [
    { name: $t('pack to its carrier'), strips: strips('carrier_vehicle') },
    { name: $t('carrier to the vehicle'), strips: strips('pack_carrier') },
  ]
})
/** Of the two links the weaker one holds. */
const weaker = computed(() => (mount.value && mount.value.carrier_n > mount.value.vehicle_n ? 1 : 0))
/** What the vehicle carries against what it may. */
const masses = computed(() => table.value?.masses)
const paired = computed(() => table.value?.paired)
const charger = computed(() => {
  const f = view.value?.sheet.found
  return [
    f?.charger_v?.value == null ? '' : withUnit(f.charger_v.value, 'V'),
    f?.charger_a?.value == null ? '' : withUnit(f.charger_a.value, 'A'),
  ]
    .filter(Boolean)
    .join(', ')
})
const fields = ['rest_v', 'series', 'ah', 'ohm', 'discharge_a', 'charge_a', 'mass_kg']
</script>

<template>
  <section class="panel" data-test="packs">
    <header>
      <h2>{{ $t('Packs') }}</h2>
      <span v-if="match" :class="['small', { stop: match.outcome === 'fail' }]">
        {{ mode ?? $t('how they are connected is not given') }} · {{ outcomeWord(match.outcome, 'calc') }}
      </span>
    </header>
    <div v-if="packs.length" class="scroll">
      <table>
        <thead>
          <tr>
            <th>{{ $t('pack') }}</th>
            <th class="num">{{ $t('at rest, V') }}</th>
            <th class="num">{{ $t('full, V') }}</th>
            <th class="num">{{ $t('charge, %') }}</th>
            <th class="num">{{ $t('capacity, W·h') }}</th>
            <th v-if="ranged" class="num">{{ $t('usable, W·h') }}</th>
            <th v-if="ranged" class="num">{{ $t('carries, {unit}', { unit: unitShown('km') }) }}</th>
            <th class="num">{{ $t('allowed, A') }}</th>
            <th v-if="several" class="num">{{ $t('its share, A') }}</th>
            <th class="num">{{ $t('C rate by itself') }}</th>
            <th>{{ $t('mount') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(p, i) in table?.packs ?? []" :key="i" :class="{ here: i === at }" :data-pack="i">
            <td>
              <button type="button" class="plain" :aria-current="i === at" @click="chosen = i">{{ p.title }}</button>
            </td>
            <td class="num">{{ bare(packs[i]?.rest_v?.value ?? null, 'V') }}</td>
            <td class="num">{{ bare(p.full_v, 'V') }}</td>
            <td class="num">{{ p.soc_pct === null ? '–' : `${Math.round(p.soc_pct)} ± ${p.plus_minus_pct}` }}</td>
            <td class="num">{{ bare(p.wh, 'W·h') }}</td>
            <td v-if="ranged" class="num">{{ bare(p.use_wh, 'W·h') }}</td>
            <td v-if="ranged" class="num">{{ bare(p.range_km, 'km') }}</td>
            <td class="num">{{ bare(packs[i]?.discharge_a?.value ?? null, 'A') }}</td>
            <td v-if="several" class="num">{{ bare(together?.shares_a[i] ?? null, 'A') }}</td>
            <td class="num">{{ bare(together?.c_rates[i] ?? null, '') }}</td>
            <td>{{ check(p.hold) ? outcomeWord(check(p.hold)!.outcome, 'calc') : '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else class="small">{{ $t('No battery is on the sheet yet.') }}</p>
    <ActButton v-if="!packs.length && !locked" @click="add('packs', { place: 'down_tube' })">{{
      $t('Add battery')
    }}</ActButton>
    <p v-if="table?.limit_a" class="small">
      {{
        $t(
          'The controller draws up to {limit_a}; each pack alone must carry that, because any other may be out or empty.',
          { limit_a: withUnit(table.limit_a, 'A') },
        )
      }}
      <template v-if="together">{{
        $t('Under that load the bus is at {bus_v}; the weakest pack has {margin_a} to spare.', {
          bus_v: withUnit(together.bus_v, 'V'),
          margin_a: withUnit(together.margin_a, 'A'),
        })
      }}</template>
    </p>
    <p
      v-if="several && table?.inrush_a != null && table.inrush_a > 0.05"
      :class="['small', { stop: table.mode === 'direct' && !together?.inrush_ok }]"
    >
      {{
        table.mode === 'direct'
          ? $t('Connected directly in parallel now: {inrush_a} would flow into the emptiest.', {
              inrush_a: withUnit(table.inrush_a, 'A'),
            })
          : $t('Never connect these directly in parallel: {inrush_a} would flow into the emptiest.', {
              inrush_a: withUnit(table.inrush_a, 'A'),
            })
      }}
    </p>
    <div v-if="packs.length" class="fields">
      <SheetField v-for="f in fields" :key="f + at" :path="`packs.${at}.${f}`" />
      <SheetField v-if="several" path="given.pack_coupling.mode" :title="$t('joined')" />
      <SheetField v-if="several && table?.mode === 'combiner'" path="given.pack_coupling.combiner_a" />
    </div>
    <p v-if="check('pack.charger')" class="small">
      {{
        $t('Charger{charger}: {outcome}.', {
          charger: charger ? ` ${charger}` : '',
          outcome: outcomeWord(check('pack.charger')!.outcome, 'look'),
        })
      }}
    </p>
    <p v-if="several" class="small">
      {{
        $t(
          'Changeover, in order, wheel off the ground: first pack alone; the second in; the first out; the same the other way round. The display never blinks.',
        )
      }}
      <RouterLink :to="{ name: 'bench', params: { id } }">{{ $t('Timed on the bench') }}</RouterLink>
    </p>
    <p class="caution">
      {{
        $t(
          'A pack that swells, hisses, smells or is hot goes outdoors, away from everything, by trained people. No pack is opened here.',
        )
      }}
    </p>
  </section>

  <section v-if="view?.sheet.sister" class="panel" data-test="paired">
    <header>
      <h2>{{ $t('Not to be mixed up') }}</h2>
      <span class="small">{{
        $t('{name} beside {sister}', { name: view.sheet.name, sister: view.sheet.sister })
      }}</span>
    </header>
    <p v-if="!paired" class="small">
      {{ $t('No inspection of {sister} is on record to compare with.', { sister: view.sheet.sister }) }}
    </p>
    <div v-else class="scroll">
      <table>
        <thead>
          <tr>
            <th></th>
            <th>{{ view.sheet.name }}</th>
            <th>
              <RouterLink :to="{ name: 'walk', params: { id: paired.inspection, gate: 5 } }"
                >{{ paired.with }}, {{ paired.number }}</RouterLink
              >
            </th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in paired.lines" :key="l.what">
            <td>{{ l.what }}</td>
            <td>{{ l.own || $t('not noted') }}</td>
            <td>{{ l.other || $t('not noted') }}</td>
            <td :class="{ stop: l.stop && l.words }">{{ l.words }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="fields">
      <SheetField :path="`packs.${at}.number`" />
      <SheetField :path="`packs.${at}.key`" />
      <SheetField path="found.charger_v" />
      <SheetField path="found.charger_number" />
    </div>
  </section>

  <section v-if="packs.length" class="panel" data-test="mount-forces">
    <header>
      <h2>{{ $t('What holds pack {n} on', { n: at + 1 }) }}</h2>
      <span v-if="hold" :class="['small', { stop: hold.outcome === 'fail' }]">{{
        outcomeWord(hold.outcome, 'calc')
      }}</span>
    </header>
    <template v-if="mount && mount.demand_n">
      <div v-for="(l, i) in links" :key="l.name">
        <h3>{{ l.name }}{{ i === weaker ? $t(', the weaker') : '' }}</h3>
        <HoldStrip
          :strips="l.strips"
          :peak="mount.demand_n"
          :asked="mount.factor"
          :asked-words="$t('asked for')"
          unit="N"
          :against="$t('the shock')"
        />
      </div>
      <p class="small">
        {{
          mount.lent ? $t('Straps only help: the shop rules do not count them.') : $t('The shop rules count straps.')
        }}
        {{
          mount.proof_g != null
            ? $t('Proven by lift or pull: {proof_g} g.', { proof_g: bare(mount.proof_g, 'g') })
            : $t('No lift or pull test yet.')
        }}
      </p>
    </template>
    <p v-if="masses?.parts.length" :class="['small', 'first-upper', { stop: masses.over }]">
      {{ masses.parts.map((p) => `${p.title} ${withUnit(p.kg, 'kg')}`).join(', ')
      }}<template v-if="masses.total_kg != null"
        >: {{ withUnit(masses.total_kg, 'kg') }} {{ masses.weighed ? $t('weighed') : $t('in all') }}</template
      ><template v-if="masses.allowed_kg != null">{{
        $t(', {allowed_kg} allowed', { allowed_kg: withUnit(masses.allowed_kg, 'kg') })
      }}</template
      >.
    </p>
    <p v-if="!mount?.demand_n" class="small">
      {{
        $t('Missing: {readings}.', {
          readings: [...new Set((hold?.needs ?? []).map((n) => n.title))].join(', ') || $t('its mounts'),
        })
      }}
    </p>
  </section>

  <RangeSchools />
</template>

<style scoped>
tbody td {
  vertical-align: middle;
}
tbody td button {
  text-align: left;
}
.here td {
  font-weight: 700;
}
.fields {
  margin: 12px 0 8px;
}
.first-upper::first-letter {
  text-transform: uppercase;
}
h3 {
  margin: 10px 0 2px;
}
</style>
