<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { bare, withUnit } from '@/state/units'
import { outcomeWord } from '@/lib/words'
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
const chosen = ref(0)
const at = computed(() => Math.min(chosen.value, packs.value.length - 1))
const match = computed(() => check(table.value?.check ?? ''))
const together = computed(() => table.value?.together)
const mode = computed(
  () =>
    ({
      single: 'one pack',
      combiner: 'over a combiner',
      direct: 'joined straight',
      swap: 'one at a time, changed over',
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
        name: `${p.count > 1 ? `${p.count} × ` : ''}${p.kind.replaceAll('_', ' ')}`,
        v: p.n,
        fill: p.kind === 'strap' ? 'none' : 'var(--jade)',
        lent: p.kind === 'strap' && m.lent,
      }))
  return [
    { name: 'pack to its carrier', strips: strips('carrier_vehicle') },
    { name: 'carrier to the vehicle', strips: strips('pack_carrier') },
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
      <h2>Packs</h2>
      <span v-if="match" :class="['small', { stop: match.outcome === 'fail' }]">
        {{ mode ?? 'how they are connected is not given' }} · {{ outcomeWord(match.outcome, 'calc') }}
      </span>
    </header>
    <div v-if="packs.length" class="scroll">
      <table>
        <thead>
          <tr>
            <th>pack</th>
            <th class="num">at rest, V</th>
            <th class="num">full, V</th>
            <th class="num">charge, %</th>
            <th class="num">capacity, W·h</th>
            <th class="num">allowed, A</th>
            <th v-if="several" class="num">its share, A</th>
            <th class="num">C rate by itself</th>
            <th>mount</th>
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
            <td class="num">{{ bare(packs[i]?.discharge_a?.value ?? null, 'A') }}</td>
            <td v-if="several" class="num">{{ bare(together?.shares_a[i] ?? null, 'A') }}</td>
            <td class="num">{{ bare(together?.c_rates[i] ?? null, '') }}</td>
            <td>{{ check(p.hold) ? outcomeWord(check(p.hold)!.outcome, 'calc') : '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else class="small">No battery is on the sheet yet.</p>
    <ActButton v-if="!packs.length && !locked" @click="add('packs', { place: 'down_tube' })">Add battery</ActButton>
    <p v-if="table?.limit_a" class="small">
      The controller draws up to {{ withUnit(table.limit_a, 'A') }}; each pack alone must carry that, because any other
      may be out or empty.
      <template v-if="together"
        >Under that load the bus is at {{ withUnit(together.bus_v, 'V') }}; the weakest pack has
        {{ withUnit(together.margin_a, 'A') }} to spare.</template
      >
    </p>
    <p
      v-if="several && table?.inrush_a != null && table.inrush_a > 0.05"
      :class="['small', { stop: table.mode === 'direct' && !together?.inrush_ok }]"
    >
      {{
        table.mode === 'direct' ? 'Connected directly in parallel now' : 'Never connect these directly in parallel:'
      }}, {{ withUnit(table.inrush_a, 'A') }} would flow into the emptiest.
    </p>
    <div v-if="packs.length" class="fields">
      <SheetField v-for="f in fields" :key="f + at" :path="`packs.${at}.${f}`" />
      <SheetField v-if="several" path="given.pack_coupling.mode" title="joined" />
      <SheetField v-if="several && table?.mode === 'combiner'" path="given.pack_coupling.combiner_a" />
    </div>
    <p v-if="check('pack.charger')" class="small">
      Charger{{ charger ? ` ${charger}` : '' }}: {{ outcomeWord(check('pack.charger')!.outcome, 'look') }}.
    </p>
    <p v-if="several" class="small">
      Changeover, in order, wheel off the ground: first pack alone; the second in; the first out; the same the other way
      round. The display never blinks.
      <RouterLink :to="{ name: 'bench', params: { id } }">Timed on the bench</RouterLink>
    </p>
    <p class="caution">
      A pack that swells, hisses, smells or is hot goes outdoors, away from everything, by trained people. No pack is
      opened here.
    </p>
  </section>

  <section v-if="view?.sheet.sister" class="panel" data-test="paired">
    <header>
      <h2>Not to be mixed up</h2>
      <span class="small">{{ view.sheet.name }} beside {{ view.sheet.sister }}</span>
    </header>
    <p v-if="!paired" class="small">No inspection of {{ view.sheet.sister }} is on record to compare with.</p>
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
            <td>{{ l.own || 'not noted' }}</td>
            <td>{{ l.other || 'not noted' }}</td>
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
      <h2>What holds pack {{ at + 1 }} on</h2>
      <span v-if="hold" :class="['small', { stop: hold.outcome === 'fail' }]">{{
        outcomeWord(hold.outcome, 'calc')
      }}</span>
    </header>
    <template v-if="mount && mount.demand_n">
      <div v-for="(l, i) in links" :key="l.name">
        <h3>{{ l.name }}{{ i === weaker ? ', the weaker' : '' }}</h3>
        <HoldStrip
          :strips="l.strips"
          :peak="mount.demand_n"
          :asked="mount.factor"
          asked-words="asked for"
          unit="N"
          against="the shock"
        />
      </div>
      <p class="small">
        {{ mount.lent ? 'Straps only help: the shop rules do not count them.' : 'The shop rules count straps.' }}
        {{
          mount.proof_g != null ? `Proven by lift or pull: ${bare(mount.proof_g, 'g')} g.` : 'No lift or pull test yet.'
        }}
      </p>
    </template>
    <p v-if="masses?.parts.length" :class="['small', 'first-upper', { stop: masses.over }]">
      {{ masses.parts.map((p) => `${p.title} ${withUnit(p.kg, 'kg')}`).join(', ')
      }}<template v-if="masses.total_kg != null"
        >: {{ withUnit(masses.total_kg, 'kg') }} {{ masses.weighed ? 'weighed' : 'in all' }}</template
      ><template v-if="masses.allowed_kg != null">, {{ withUnit(masses.allowed_kg, 'kg') }} allowed</template>.
    </p>
    <p v-if="!mount?.demand_n" class="small">
      Missing: {{ [...new Set((hold?.needs ?? []).map((n) => n.title))].join(', ') || 'its mounts' }}.
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
