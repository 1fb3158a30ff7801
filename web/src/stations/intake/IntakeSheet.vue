<script setup lang="ts">
import RemoveThis from '@/parts/RemoveThis.vue'
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import CheckList from '@/parts/CheckList.vue'
import HeldBy from '@/parts/HeldBy.vue'
import SheetField from '@/parts/SheetField.vue'
import { useWorkshop } from '@/state/workshop'
import IntakeLists from './IntakeLists.vue'
import IntakeMotors from './IntakeMotors.vue'
import IntakePhotos from './IntakePhotos.vue'
import WhatChanged from './WhatChanged.vue'

const { id, view, evaluation, set, locked } = useInspection()
const { fieldAt } = useWorkshop()
type Fields = [path: string, title?: string, also?: Record<string, string>][]
const packs = computed(() => view.value?.sheet.packs ?? [])
const trike = computed(() => view.value?.sheet.kind !== 'bicycle')

const vehicle = computed<Fields>(() => [
  ['name', 'name'],
  ['kind', 'wheels'],
  ['frame_number'],
  ['colour', 'colour'],
  ['odometer_km'],
  ['sister', 'sister vehicle'],
  ['fork.suspension_cast', 'front dropouts cast into a suspension fork'],
])
const claims: Fields = [
  ['claims.power_w'],
  ['claims.top_speed_kmh'],
  ['claims.range_km'],
  ['claims.class'],
  ['use.place', 'rule pack of the place'],
  ['use.rider_kg'],
  ['use.load_kg'],
  ['use.total_kg'],
  ['use.allowed_kg'],
  ['use.rented', 'lent out'],
  ['use.rain', 'ridden in rain'],
  ['use.hills', 'ridden in hills'],
  ['use.private_ground', 'on private ground only'],
  ['use.first_use', 'first used electric, by paper'],
]
const controls = computed<Fields>(() => [
  ['throttle'],
  ['pedal_sensor', 'pedal sensor fitted'],
  ['restricted', 'held below what it could do'],
  ['mixed_plugs', 'plugs of mixed makes'],
  ...(['left', 'right'] as const).flatMap((side): Fields => [
    [`levers.${side}.fitted`, `${side} lever fitted`],
    [`levers.${side}.switch`, `${side} cutoff switch`, { [`levers.${side}.fitted`]: 'yes' }],
    [`levers.${side}.works`, `${side} works`, { [`levers.${side}.fitted`]: 'yes' }],
  ]),
  ['stem', 'stem'],
  ['cranks.fixing', 'cranks fixed by'],
  ...((view.value?.sheet.drives ?? []).some((d) => d.kind === 'mid') ? ([['shift_sensor']] as Fields) : []),
  ...(trike.value ? ([['parking', 'parking brake']] as Fields) : []),
])
const wheelFields = (w: string): Fields =>
  [
    'bsd_mm',
    'rim_inner_mm',
    'tyre_mm',
    'tyre_bsd_mm',
    'pressure_min_bar',
    'pressure_max_bar',
    'pressure_bar',
    'mark_kg',
    'on_it_kg',
    'brake',
    'rotor_mm',
    'rotor_mount',
  ].map((k) => [`${w}.${k}`])
const wheelTitle = (w: 'front' | 'rear') =>
  (view.value?.sheet.kind === 'delta' && w === 'rear') || (view.value?.sheet.kind === 'tadpole' && w === 'front')
    ? `Wheels, the ${w} pair`
    : `Wheel, ${w}`
const geometry = computed<Fields>(() =>
  [
    'wheelbase_mm',
    ...(trike.value ? ['track_mm'] : []),
    'head_deg',
    'seat_deg',
    'stay_mm',
    'drop_mm',
    'fork_mm',
    'offset_mm',
    'seat_tube_mm',
    'head_tube_mm',
  ].map((k) => [`geometry.${k}`, k.replace(/_(mm|deg)$/, '').replaceAll('_', ' ')]),
)
const packFields = [
  'number',
  'place',
  'series',
  'ah',
  'mass_kg',
  'rest_v',
  'ohm',
  'discharge_a',
  'charge_a',
  'certificate',
  'taken_out',
]
/** Plain facts that nobody has said yet: those that are not there are denied in one go, as a list that is read. */
const unsaid = computed(() => (view.value?.lacks ?? []).filter((l) => !l.known && fieldAt(l.path)?.kind === 'boolean'))
async function noneOfThem() {
  for (const l of unsaid.value) await set(l.path, false)
}
const checks = computed(() => evaluation.value?.checks.filter((c) => c.gate === 1) ?? [])
</script>

<template>
  <div v-if="view" class="station intake">
    <div class="left">
      <section v-if="view.contradictions.length" class="panel cross" data-test="contradictions">
        <h2>These entries contradict each other</h2>
        <ul class="rows">
          <li v-for="c in view.contradictions" :key="c.words" class="stop">{{ c.words }}</li>
        </ul>
      </section>
      <section v-if="view.unsigned_before.length" class="panel cross">
        <h2>Here before</h2>
        <p>
          Nobody signed {{ view.unsigned_before.join(', ') }}. What stood there stands here until new evidence passes
          it.
        </p>
      </section>
      <section class="panel">
        <h2>Vehicle</h2>
        <div class="fields">
          <SheetField v-for="[path, title] in vehicle" :key="path" :path="path" :title="title" />
        </div>
      </section>
      <IntakePhotos />
      <section class="panel">
        <h2>Claims and use</h2>
        <div class="fields">
          <SheetField v-for="[path, title] in claims" :key="path" :path="path" :title="title" />
        </div>
      </section>
      <IntakeMotors />
      <section v-for="(_, i) in packs" :key="i" class="panel">
        <header>
          <h2>Battery {{ i + 1 }}</h2>
          <RemoveThis list="packs" :index="i" :what="`battery ${i + 1}`" :test="`remove-pack-${i}`" />
        </header>
        <div class="fields">
          <SheetField v-for="k in packFields" :key="k" :path="`packs.${i}.${k}`" />
        </div>
      </section>
      <section v-if="!locked" class="panel">
        <VBtn data-test="add-pack" @click="set(`packs.${packs.length}`, { place: 'down_tube' })">
          {{ packs.length ? 'Add another battery' : 'Add battery' }}
        </VBtn>
      </section>
      <section class="panel">
        <h2>Brakes and controls</h2>
        <div class="fields">
          <SheetField v-for="[path, title, also] in controls" :key="path" :path="path" :title="title" :also="also" />
        </div>
        <div v-if="unsaid.length && !locked" class="none">
          <p class="small">Not said yet. Is it so: {{ unsaid.map((l) => l.words).join('; ') }}?</p>
          <VBtn data-test="none-of-them" @click="noneOfThem">
            {{ unsaid.length === 1 ? 'I looked, it is so' : `I looked, all ${unsaid.length} are so` }}
          </VBtn>
        </div>
      </section>
      <section v-for="w in ['front', 'rear'] as const" :key="w" class="panel">
        <h2>{{ wheelTitle(w) }}</h2>
        <div class="fields">
          <SheetField v-for="[path, title] in wheelFields(w)" :key="path" :path="path" :title="title" />
        </div>
      </section>
      <IntakeLists />
      <WhatChanged />
      <section class="panel">
        <header>
          <h2>Measures for the drawing</h2>
          <span class="small">what is empty is drawn at a usual size</span>
        </header>
        <div class="fields">
          <SheetField v-for="[path, title] in geometry" :key="path" :path="path" :title="title" />
        </div>
      </section>
    </div>
    <div class="side">
      <section class="panel">
        <h2>Checks of the intake</h2>
        <p class="caution">Packs out and unplugged until gate 5.</p>
        <CheckList :checks="checks" />
        <p class="papers">
          <RouterLink :to="{ name: 'walk', params: { id, gate: '1' } }">On the drawing</RouterLink>
          <a :href="`/api/inspections/${id}/field-sheet.pdf`" target="_blank" rel="noopener" data-test="field-sheet"
            >Field sheet of what is open (PDF)</a
          >
        </p>
      </section>
      <HeldBy />
    </div>
  </div>
</template>

<style scoped>
.intake {
  --side: 400px;
}
.fields {
  margin: 8px 0;
}
.cross {
  border-left: 5px solid var(--plum);
}
.none {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.papers {
  display: flex;
  flex-wrap: wrap;
  gap: 0 22px;
}
.papers a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
</style>
