<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import { api, faultLine, faults, sendFile, take, type Schemas } from '@/api/client'
import { may } from '@/state/session'
import { date, verdictWord } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'

// The form brings the reader of YAML with it, which the other stations do not need.
const PackForm = defineAsyncComponent(() => import('./PackForm.vue'))

/**
 * The law of places as rule packs: read, changed as a form or as text, tried on the vehicles on record, and put in force with a
 * reason. What was signed keeps the edition that judged it.
 */
const client = useQueryClient()
const { data: packs, error } = useQuery({
  queryKey: ['rule-packs'],
  queryFn: () => take(api.GET('/api/rule-packs')),
})
const open = ref<string | null>(null)
const text = ref('')
const reason = ref('')
const said = ref('')
const wrong = ref<string[]>([])
/** What is wrong, by field. */
const wrongAt = ref<Record<string, string>>({})
const asText = ref(false)
const trial = ref<Schemas['PackTrial'] | null>(null)
/** The text that was tried: what is changed after that is tried again first. */
const tried = ref('')
const busy = ref(false)
const current = computed(() => packs.value?.find((p) => p.pack.id === open.value))

async function edit(id: string) {
  if (open.value === id) {
    open.value = null
    return
  }
  clear()
  open.value = id
  const r = await fetch(`/api/rule-packs/${encodeURIComponent(id)}`).catch(() => null)
  text.value = r?.ok ? await r.text() : ''
  if (!r?.ok) said.value = 'The pack could not be read from the server.'
}
function clear() {
  trial.value = null
  wrong.value = []
  wrongAt.value = {}
  said.value = reason.value = ''
}
async function bringIn(e: Event) {
  const input = e.target as HTMLInputElement
  const f = input.files?.[0]
  input.value = ''
  if (!f) return
  clear()
  open.value = ''
  text.value = await f.text()
  await tryIt()
}
function failed(x: unknown, words: string) {
  said.value = words
  const all = faults(x)
  wrong.value = all.map(faultLine)
  wrongAt.value = Object.fromEntries(all.map((f) => [f.field, f.words]))
}
/** A pack of one's own is begun with what every pack says. */
function begin() {
  clear()
  open.value = ''
  asText.value = false
  const today = new Date().toLocaleDateString('sv')
  text.value = `format: jadegate.pack/2
id: our_place
name: Our place
kind: road
as_of: "${today}"
version: 1
sources:
  - {id: law, title: "", year: ${today.slice(0, 4)}}
classes:
  - id: class_1
    name: First class
    source: law
`
}
const file = () => new Blob([text.value], { type: 'application/yaml' })
async function tryIt() {
  clear()
  busy.value = true
  try {
    trial.value = await sendFile<Schemas['PackTrial']>('/api/rule-packs/try', file(), 'application/yaml')
    tried.value = text.value
  } catch (x) {
    failed(x, 'The text is no rule pack yet.')
  }
  busy.value = false
}
async function publish() {
  busy.value = true
  try {
    const p = await sendFile<Schemas['RulePack']>(
      `/api/rule-packs?reason=${encodeURIComponent(reason.value)}`,
      file(),
      'application/yaml',
    )
    clear()
    said.value = `${p.name}, version ${p.version}, is in force.`
    open.value = null
    await client.invalidateQueries()
  } catch (x) {
    failed(x, 'It was not put in force.')
  }
  busy.value = false
}
</script>

<template>
  <section class="panel" data-test="rule-packs">
    <header>
      <h2>Law by place</h2>
      <span v-if="may('inspector')" class="acts">
        <ActButton data-test="pack-begin" @click="begin">Write a pack of our own</ActButton>
        <label class="file">
          <input type="file" accept=".yaml,.yml" data-test="pack-file" @change="bringIn" />
          <span>Try a pack’s file (YAML)</span>
        </label>
      </span>
    </header>
    <p class="caution">
      Local law and the authority decide. A pack can be out of date; a text of your own stands on every report that it
      judged.
    </p>
    <StateNote :error="error" />
    <p v-if="said" role="status" :class="wrong.length ? 'stop' : 'small'" data-test="pack-said">{{ said }}</p>
    <ul v-if="wrong.length" data-test="pack-wrong">
      <li v-for="w in wrong" :key="w">{{ w }}</li>
    </ul>
    <div v-if="open !== null" class="work">
      <div class="how" role="group" aria-label="How it is shown">
        <button type="button" class="plain" :aria-pressed="!asText" data-test="pack-as-form" @click="asText = false">
          as a form
        </button>
        <button type="button" class="plain" :aria-pressed="asText" data-test="pack-as-text" @click="asText = true">
          as text
        </button>
      </div>
      <PackForm v-if="!asText && text" v-model="text" :wrong="wrongAt" />
      <label v-if="asText" class="field">
        <span>{{ current ? `${current.pack.name}, as text` : 'The pack, as text' }}</span>
        <textarea v-model="text" rows="22" spellcheck="false" data-test="pack-text" />
      </label>
      <span class="acts">
        <ActButton v-if="may('inspector')" :disabled="busy || !text.trim()" data-test="pack-try" @click="tryIt"
          >Check it, and try it on the vehicles on record</ActButton
        >
        <ActButton variant="text" @click="open = null">Close</ActButton>
      </span>
      <template v-if="trial && tried === text">
        <h3>
          {{
            trial.against
              ? `Against version ${trial.against}, which is in force`
              : 'No pack of that id is in force: it would be new'
          }}
        </h3>
        <table v-if="trial.changes.length" data-test="pack-changes">
          <thead>
            <tr>
              <th>what</th>
              <th>was</th>
              <th>would be</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="c in trial.changes" :key="c.path">
              <td>{{ c.path.replaceAll('.', ', ').replaceAll('_', ' ') }}</td>
              <td>{{ c.was || '–' }}</td>
              <td>{{ c.is || '–' }}</td>
            </tr>
          </tbody>
        </table>
        <p v-else-if="trial.against" class="small">No differences.</p>
        <p class="small" data-test="pack-tried">
          Tried on {{ trial.tried }} {{ trial.tried === 1 ? 'inspection' : 'inspections' }} of that place:
          {{
            trial.vehicles.length
              ? `${trial.vehicles.length} would be judged otherwise.`
              : 'none would be judged otherwise.'
          }}
        </p>
        <ul v-if="trial.vehicles.length" class="rows" data-test="pack-effects">
          <li v-for="v in trial.vehicles" :key="v.id">
            <b>{{ v.name }}, {{ v.number }}</b
            >:
            {{
              v.verdict === v.would
                ? verdictWord[v.verdict]
                : `${verdictWord[v.verdict]}, then ${verdictWord[v.would]}`
            }}; {{ v.class === v.then ? v.class : `${v.class}, then ${v.then}`
            }}{{ v.signed ? '. What was signed stays.' : '' }}
          </li>
        </ul>
        <template v-if="may('lead')">
          <label class="field">
            <span>Why it is put in force</span>
            <input v-model="reason" maxlength="400" data-test="pack-reason" />
          </label>
          <ActButton
            variant="flat"
            :disabled="busy || reason.trim().length < 8"
            data-test="pack-publish"
            @click="publish"
            >Put version {{ trial.pack.version }} in force</ActButton
          >
        </template>
      </template>
    </div>
    <ul class="rows">
      <li v-for="p in packs" :key="p.pack.id" :data-rule-pack="p.pack.id">
        <div class="entry">
          <button type="button" class="plain" :aria-expanded="open === p.pack.id" @click="edit(p.pack.id)">
            <b>{{ p.pack.name }}</b>
          </button>
          <span class="small"
            >{{ p.pack.kind === 'road' ? 'law of use' : 'law of making and sale' }}, as of {{ p.pack.as_of }}, version
            {{ p.pack.version }}{{ p.shipped ? ', shipped' : `, own: ${p.by}, ${date(p.at)}: ${p.reason}` }}</span
          >
          <a :href="`/api/rule-packs/${encodeURIComponent(p.pack.id)}`" download>Save as YAML</a>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.work {
  display: grid;
  gap: 10px;
  border-block: 1px solid var(--line);
  padding-block: 12px;
}
textarea {
  width: 100%;
  font-family: var(--figures);
  font-size: 14px;
  border: 1px solid var(--soft);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  padding: 8px;
}
.how {
  display: flex;
  gap: 14px;
}
.how [aria-pressed='true'] {
  font-weight: 700;
  color: var(--ink);
}
</style>
