<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef } from 'vue'
import { api, faultLine, faults, sendFile, take, type Schemas } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { batch, newId } from '@/state/outbox'
import { bare, unitShown } from '@/state/units'
import { useWorkshop } from '@/state/workshop'
import CheckList from '@/parts/CheckList.vue'
import HeldBy from '@/parts/HeldBy.vue'
import BoltMap from './BoltMap.vue'
import BoltWork from './BoltWork.vue'
import { markOf, windowWord, wordOf, type Line } from './bolts'

const { id, view, evaluation, add: addTo, set, settled, locked, problem } = useInspection()
const { fieldAt } = useWorkshop()
const { data } = useQuery({
  queryKey: computed(() => ['ledger', id, view.value?.seq]),
  queryFn: () => take(api.GET('/api/inspections/{id}/ledger', { params: { path: { id } } })),
  placeholderData: keepPreviousData,
})
const lines = computed<Line[]>(() => data.value ?? [])
/** Chosen by hand, or being written down: until it holds one stays at it. */
const chosen = ref<string | null>(null)
const work = useTemplateRef('work')
function choose(at: string) {
  chosen.value = at
  work.value?.show()
}
const current = computed(
  () => lines.value.find((l) => l.at === chosen.value) ?? lines.value.find((l) => l.next) ?? lines.value[0] ?? null,
)
/** The other bolts of its ring, or of its group if it stands in none. */
const others = computed(() =>
  lines.value.filter(
    (l) =>
      l.at !== current.value?.at &&
      l.group !== 'axle_nuts' &&
      l.check === current.value?.check &&
      l.ring_name === current.value?.ring_name,
  ),
)
const left = computed(() => lines.value.filter((l) => markOf(l) === 'waits').length)
const gateChecks = computed(() => evaluation.value?.checks.filter((c) => c.gate === 3) ?? [])
const broken = computed(() =>
  gateChecks.value.flatMap((c) => c.judged.filter((j) => j.value === null && j.result === 'fail')),
)
function opened(check: string) {
  chosen.value = lines.value.find((l) => l.check === check && markOf(l) === 'waits')?.at ?? null
}

const said = ref('')
const bolts = () => view.value?.sheet.bolts ?? []
/** How many were on the list before the last lot was put on it; what of it nobody has read yet can be taken off again. */
const before = ref<number | null>(null)
const unread = computed(() =>
  before.value === null
    ? []
    : bolts()
        .slice(before.value)
        .filter((b) => b.torque_nm?.value == null),
)
async function takeOff() {
  if (!(await settled('bolts'))) return
  const off = new Set(unread.value.map((b) => b.place))
  if (
    await set(
      'bolts',
      bolts().filter((b, i) => i < before.value! || !off.has(b.place)),
    )
  ) {
    said.value = $t('{n} fasteners taken off the list.', { n: off.size })
    before.value = null
  }
}
async function usual() {
  said.value = ''
  before.value = null
  if (!(await settled('bolts'))) return // what was said before stands in the list that is made
  const were = bolts().length
  try {
    const done = await batch(id, () =>
      take(api.POST('/api/inspections/{id}/usual-bolts', { params: { path: { id } }, body: { id: newId() } })),
    )
    if (done.entries) before.value = were
    said.value = done.entries
      ? $t('{entries} fasteners listed.', { entries: done.entries })
      : $t('Nothing to add: they are all listed.')
  } catch (e) {
    said.value = (e as Error).message
  }
}
async function bringIn(e: Event) {
  const input = e.target as HTMLInputElement
  const f = input.files?.[0]
  input.value = ''
  if (!f) return
  said.value = ''
  if (!(await settled('bolts'))) return
  try {
    const q = new URLSearchParams({ token: newId() })
    const url = `/api/inspections/${encodeURIComponent(id)}/ledger.csv?${q}`
    const done = await batch(id, () => sendFile<Schemas['Done']>(url, f, 'text/csv'))
    said.value = $t('{name}: {entries} values imported.', { name: f.name, entries: done.entries })
  } catch (x) {
    said.value = $t('{name}: nothing was imported. {join}', {
      name: f.name,
      join: faults(x).map(faultLine).join(' · '),
    })
  }
}

const place = useDraft(() => `${id}:bolt`)
const group = ref('')
const house = ref('')
async function add() {
  const bolt = { place: place.value.trim(), group: group.value, ...(house.value ? { house: house.value } : {}) }
  place.value = ''
  if (!(await addTo('bolts', bolt)) && problem.value) place.value = bolt.place
}
const words = term
</script>

<template>
  <div v-if="view" class="station ledger">
    <div class="left">
      <section class="panel">
        <header>
          <h2>{{ $t('Bolt map') }}</h2>
          <span class="small">{{ $t('{lines} of {n} read', { lines: lines.length - left, n: lines.length }) }}</span>
        </header>
        <BoltMap v-if="lines.length" :view="view" :lines="lines" :current="current" @pick="choose($event.at)" />
        <p v-else class="small">{{ $t('No fastener is listed yet.') }}</p>
        <p v-for="j in broken" :key="j.output" class="stop">{{ $t('Not met: {words}', { words: j.words }) }}</p>
      </section>
      <section class="panel">
        <header>
          <h2>{{ $t('Ledger') }}</h2>
          <span class="files">
            <button v-if="!locked" type="button" class="plain" data-test="usual" @click="usual">
              {{ $t('List the usual bolts') }}
            </button>
            <label v-if="!locked" class="file">
              <input type="file" accept=".csv,text/csv" data-test="ledger-file" @change="bringIn" />
              <span>{{ $t('Import CSV') }}</span>
            </label>
            <a :href="`/api/inspections/${id}/ledger.csv`" download data-test="ledger-csv">{{ $t('Save as CSV') }}</a>
          </span>
        </header>
        <p v-if="said" class="small" role="status" data-test="said">
          {{ said }}
          <button v-if="unread.length && !locked" type="button" class="plain" data-test="take-off" @click="takeOff">
            {{ $t('Take the {n} unread ones off again', { n: unread.length }) }}
          </button>
        </p>
        <div class="scroll">
          <table data-test="ledger">
            <thead>
              <tr>
                <th>{{ $t('place') }}</th>
                <th class="num">{{ $t('turn') }}</th>
                <th class="num">{{ $t('window, {unit}', { unit: unitShown('N·m') }) }}</th>
                <th>{{ $t('from') }}</th>
                <th class="num">{{ $t('read') }}</th>
                <th>{{ $t('tool') }}</th>
                <th>{{ $t('lock') }}</th>
                <th>{{ $t('result') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="l in lines"
                :key="l.at"
                :class="{ bad: markOf(l) === 'fails', here: l.at === current?.at }"
                :data-bolt="l.place"
              >
                <td>
                  <button type="button" class="plain" :aria-current="l.at === current?.at" @click="choose(l.at)">
                    {{ l.place }}
                  </button>
                </td>
                <td class="num">{{ l.turn || '' }}</td>
                <td class="num">
                  {{
                    l.low_nm === null
                      ? '–'
                      : $t('{low_nm} to {high_nm}', {
                          low_nm: bare(l.low_nm, 'N·m', 2),
                          high_nm: bare(l.high_nm, 'N·m', 2),
                        })
                  }}
                </td>
                <td>{{ windowWord[l.window] ?? '' }}</td>
                <td class="num">
                  {{ bare(l.read_nm, 'N·m')
                  }}<small v-if="l.joint_nm !== null && l.joint_nm !== l.read_nm">
                    → {{ bare(l.joint_nm, 'N·m') }}</small
                  >
                </td>
                <td>{{ l.tool?.id ?? '' }}</td>
                <td>
                  {{ words(l.locking) || (l.locking_asked && l.group !== 'axle_nuts' ? $t('asked') : '')
                  }}{{ l.witness === 'yes' ? $t(', marked') : '' }}
                </td>
                <td>{{ wordOf(l) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <form v-if="!locked" class="add" @submit.prevent="add">
          <label class="field"
            ><span>{{ $t('Another bolt: where') }}</span
            ><input v-model="place"
          /></label>
          <label class="field">
            <span>{{ $t('belongs to') }}</span>
            <select v-model="group">
              <option value="" disabled>{{ $t('choose') }}</option>
              <option v-for="g in fieldAt('bolts.0.group')?.enum" :key="g" :value="g">{{ words(g) }}</option>
            </select>
          </label>
          <label class="field">
            <span>{{ $t('house window') }}</span>
            <select v-model="house">
              <option value="">{{ $t('none') }}</option>
              <option v-for="w in fieldAt('bolts.0.house')?.enum" :key="w" :value="w">{{ words(w) }}</option>
            </select>
          </label>
          <ActButton type="submit" :disabled="!place.trim() || !group">{{ $t('Add') }}</ActButton>
        </form>
      </section>
    </div>
    <div class="side">
      <BoltWork
        v-if="current"
        ref="work"
        :line="current"
        :others="others"
        @saving="chosen = current.at"
        @saved="chosen = null"
      />
      <section class="panel">
        <header>
          <h2>{{ $t('Checks of the gate') }}</h2>
          <RouterLink class="small" :to="{ name: 'walk', params: { id, gate: '3' } }">{{
            $t('On the drawing')
          }}</RouterLink>
        </header>
        <CheckList :checks="gateChecks" @open="opened" />
      </section>
      <HeldBy />
    </div>
  </div>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: center;
}
.files a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
td {
  padding: 1px 10px 1px 0;
  vertical-align: middle;
}
td .plain {
  text-align: left;
  text-decoration: none;
}
tr.here {
  background: var(--jade-pale);
}
tr.bad {
  color: var(--plum-text);
  font-weight: 700;
}
.add {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 8px;
  align-items: end;
  margin-top: 10px;
}
</style>
