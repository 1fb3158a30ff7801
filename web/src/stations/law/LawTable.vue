<script setup lang="ts">
import { $t } from '@/lib/say'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'
import { printOnly } from '@/lib/print'
import { minutes, term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import GateMark from '@/parts/GateMark.vue'
import PhotoOf from '@/parts/PhotoOf.vue'
import SheetField from '@/parts/SheetField.vue'
import StateNote from '@/parts/StateNote.vue'
import { asks, limitOf, result, valueOf, what } from './words'
import ClassRequirements from './ClassRequirements.vue'
import LawAdvice from './LawAdvice.vue'
import DriveCurve from './DriveCurve.vue'
import HeldBack from './HeldBack.vue'
import PaperList from './PaperList.vue'
import ClassParts from './ClassParts.vue'

/**
 * The classes of the place against this vehicle: its road law first, the product law beside it, others if asked. Each
 * class says what decides, and what would bring the vehicle in.
 */
const { id, view, set, locked } = useInspection()
const intended = computed(() => view.value?.sheet.use.intended ?? '')
/** The class asks for papers, or one settles it: then it matters what was fitted when. */
const papers = computed(
  () => !!(law.value?.advice?.papers.length || law.value?.advice?.settles.length || view.value?.sheet.papers?.length),
)
const { workshop } = useWorkshop()
const also = ref<string[]>([])
const { data: law, error } = useQuery({
  queryKey: computed(() => ['law', id, view.value?.seq, also.value]),
  queryFn: () => take(api.GET('/api/inspections/{id}/law', { params: { path: { id }, query: { also: also.value } } })),
  placeholderData: keepPreviousData,
})
const others = computed(() =>
  (workshop.value?.rule_packs ?? []).filter((p) => !law.value?.places.some((k) => k.pack === p.id)),
)
const shown = ref<string | null>(null)
const roles: Record<string, string> = {
  place: $t('road law of the place'),
  leans_on: $t('product law: binds who makes, sells or lends; it gives and takes no right on the road'),
  asked: $t('for comparison'),
}
const words: Record<string, string> = {
  in: $t('in'),
  on_paper: $t('in, once the papers are there'),
  doubtful: $t('doubtful'),
  out: $t('out'),
  not_in_force: $t('not in force on this day'),
}
const mark = (r: string) => ({ in: 'open', on_paper: 'ajar', doubtful: 'held', out: 'shut' })[r] ?? 'not_begun'
const deciding = (k: Schemas['ClassResult']) => k.requirements.find((r) => r.what === k.binding)
const decides = (k: Schemas['ClassResult']) => {
  const r = deciding(k)
  if (!r) return k.papers.length ? $t('papers: {papers}', { papers: k.papers.map(term).join(', ') }) : ''
  if (r.value === null) return `${what(r)}: ${result[r.result] ?? r.result}`
  const limit = limitOf(r)
  return `${what(r)}: ${valueOf(r)}${limit ? $t(', {bounds} asked', { bounds: limit }) : ''}`
}
const label = computed(() => law.value?.places.find((p) => p.role === 'place')?.label ?? [])
</script>

<template>
  <section class="panel" data-test="law">
    <header>
      <h2>{{ $t('Law of the place') }}</h2>
      <span class="small">{{ $t('where it is ridden decides') }}</span>
    </header>
    <StateNote :error="error" />
    <div class="fields">
      <SheetField path="use.place" :title="$t('ridden in')" />
      <label v-if="(law?.advice?.choice?.length ?? 0) > 1" class="field">
        <span>{{ $t('Class that it is to be in') }}</span>
        <select
          :value="intended"
          :disabled="locked"
          data-test="law-intended"
          @change="set('use.intended', ($event.target as HTMLSelectElement).value)"
        >
          <option value="">{{ $t('whichever fits best') }}</option>
          <option v-for="c in law!.advice!.choice" :key="c.class" :value="c.class">{{ c.name }}</option>
        </select>
      </label>
      <SheetField path="use.supplied" :title="$t('supplied how')" />
      <SheetField v-if="papers" path="use.fitted" :title="$t('motor or controller fitted on')" />
    </div>
    <LawAdvice v-if="law?.advice" :advice="law.advice" :pack="law.place" />
    <p v-if="law && !law.place" class="attend">
      {{ $t('No place is chosen, or this workshop has no rule pack for it: the result stays doubtful.') }}
    </p>
    <article v-for="p in law?.places ?? []" :key="p.pack" class="place" :data-pack="p.pack">
      <h3>
        {{ p.name }} <span class="small">{{ roles[p.role] }}</span>
      </h3>
      <p v-if="p.problem" class="stop">{{ p.problem }}</p>
      <div class="scroll">
        <table class="classes">
          <thead>
            <tr>
              <th></th>
              <th>{{ $t('class') }}</th>
              <th>{{ $t('this vehicle is') }}</th>
              <th>{{ $t('what decides') }}</th>
              <th>{{ $t('what would settle it, or make it comply') }}</th>
            </tr>
          </thead>
          <tbody v-for="k in p.classes" :key="k.class">
            <tr :class="{ here: k.class === p.best }" :data-class="k.class">
              <td><GateMark :state="mark(k.result)" :size="26" /></td>
              <td>
                <button
                  type="button"
                  class="plain"
                  :aria-expanded="shown === p.pack + k.class"
                  @click="shown = shown === p.pack + k.class ? null : p.pack + k.class"
                >
                  {{ k.name }}
                </button>
              </td>
              <td :class="{ stop: k.result === 'out', attend: k.result === 'doubtful' }">
                {{ words[k.result] ?? k.result }}
              </td>
              <td class="below">{{ decides(k) }}</td>
              <td class="below">
                <template v-if="k.changes.length"
                  >{{ k.changes.join('; ') }} ({{ minutes(k.minutes) }})<template v-if="k.then_measure.length">{{
                    $t('; then {then_measure}', { then_measure: k.then_measure.map((m) => asks[m] ?? m).join(', ') })
                  }}</template></template
                >
                <template v-else-if="k.question">{{ k.question }}</template>
              </td>
            </tr>
            <tr v-if="shown === p.pack + k.class">
              <td></td>
              <td colspan="4" class="below whole">
                <ClassRequirements :requirements="k.requirements" />
                <p v-if="k.duty.length" class="small">
                  {{ $t('Equipment also required: {duty}.', { duty: k.duty.map(term).join(', ') }) }}
                </p>
                <p v-if="k.rider.length" class="small">
                  {{ $t('Required of the rider: {rider}.', { rider: k.rider.join('; ') }) }}
                </p>
                <p v-if="k.shop.length" class="small">
                  {{ $t('Required of the shop: {shop}.', { shop: k.shop.join('; ') }) }}
                </p>
                <p v-if="k.label.length" class="small">
                  {{ $t('On its label: {label}.', { label: k.label.join('; ') }) }}
                </p>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="small">
        {{
          $t('{made_up}{own}As of {as_of}, version {version}: {sources}.', {
            made_up: p.made_up ? $t('Made up, no law anywhere. ') : '',
            own: p.own ? $t('This workshop wrote it. ') : '',
            as_of: p.as_of,
            version: p.version,
            sources: p.sources.map((s) => `${s.title}, ${s.year}`).join('; '),
          })
        }}
      </p>
      <details v-if="p.notes.length" class="small">
        <summary>{{ $t('Notes of the pack') }}</summary>
        <ul>
          <li v-for="n in p.notes" :key="n">{{ n }}</li>
        </ul>
      </details>
    </article>
    <label v-if="others.length" class="field also">
      <span>{{ $t('Compare with another place') }}</span>
      <select
        data-test="law-also"
        @change="
          also.push(($event.target as HTMLSelectElement).value)
          ;($event.target as HTMLSelectElement).value = ''
        "
      >
        <option value="">{{ $t('choose') }}</option>
        <option v-for="o in others" :key="o.id" :value="o.id">{{ o.name }}</option>
      </select>
    </label>
    <p class="caution">{{ law?.note }}</p>
    <template v-if="label.length">
      <h3>{{ $t('Label') }}</h3>
      <div class="label" data-print="label" data-test="label-text" translate="no">
        <p v-for="l in label" :key="l">{{ l }}</p>
      </div>
      <ActButton @click="printOnly('label')">{{ $t('Print the label') }}</ActButton>
    </template>
  </section>
  <DriveCurve v-if="law?.drive" :curve="law.drive" />
  <section v-if="papers" class="panel" data-test="as-built">
    <header>
      <h2>{{ $t('As its maker built it') }}</h2>
      <span class="small">{{ $t('then the model’s papers count, whatever their date') }}</span>
    </header>
    <SheetField path="use.unmodified" :title="$t('drive and controller are as their maker built them')" />
    <PhotoOf path="use.unmodified" :caption="$t('serial plate')" />
    <SheetField path="use.first_use" :title="$t('first used electric, by an invoice or a registration')" />
    <PhotoOf path="use.first_use" :caption="$t('invoice or registration')" />
  </section>
  <PaperList v-if="law?.advice && papers" :advice="law.advice" :place="law.place" />
  <ClassParts v-if="law" :law="law" />
  <HeldBack v-if="law?.held.length" :held="law.held" />
</template>

<style scoped>
.place {
  margin-top: 14px;
}
h3 .small {
  font-weight: 400;
  margin-left: 8px;
}
td {
  vertical-align: middle;
}
td button {
  text-align: left;
}
.here > td {
  font-weight: 700;
}
/* On a phone a class is its name and its answer; what decides stands below. */
@media (max-width: 620px) {
  .classes > thead {
    display: none;
  }
  .classes > tbody > tr {
    display: grid;
    grid-template-columns: 34px minmax(0, 1fr) auto;
    gap: 0 8px;
    align-items: center;
    border-top: 1px solid var(--line);
    padding: 6px 0;
  }
  .classes > tbody > tr > td {
    border: 0;
    padding: 2px 0;
  }
  .classes > tbody > tr > .below {
    grid-column: 2 / -1;
    font-weight: 400;
    font-size: 14px;
  }
  .classes > tbody > tr > .whole {
    grid-column: 1 / -1;
  }
  .classes > tbody > tr > .below:empty {
    display: none;
  }
}
.also {
  max-width: 320px;
  margin-top: 12px;
}
.label {
  width: fit-content;
  border: 2px solid var(--ink);
  padding: 8px 14px;
  margin-bottom: 8px;
}
.caution {
  margin: 12px 0;
}
.label p {
  margin: 2px 0;
  font-weight: 700;
}
</style>
