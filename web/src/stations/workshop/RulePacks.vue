<script setup lang="ts">
import { $t } from '@/lib/say'
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
  if (!r?.ok) said.value = $t('The pack could not be read from the server.')
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
  text.value = `format: jadegate.pack/2\nid: our_place\nname: ${$t('Our place')}\nkind: road\nas_of: "${today}"\nversion: 1\nsources:\n  - {id: law, title: "", year: ${today.slice(0, 4)}}\nclasses:\n  - id: class_1\n    name: ${$t('First class')}\n    source: law\n`
}
const file = () => new Blob([text.value], { type: 'application/yaml' })
async function tryIt() {
  clear()
  busy.value = true
  try {
    trial.value = await sendFile<Schemas['PackTrial']>('/api/rule-packs/try', file(), 'application/yaml')
    tried.value = text.value
  } catch (x) {
    failed(x, $t('The text is no rule pack yet.'))
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
    said.value = $t('{name}, version {version}, is in force.', { name: p.name, version: p.version })
    open.value = null
    await client.invalidateQueries()
  } catch (x) {
    failed(x, $t('It was not put in force.'))
  }
  busy.value = false
}
</script>

<template>
  <section class="panel" data-test="rule-packs">
    <header>
      <h2>{{ $t('Law by place') }}</h2>
      <span v-if="may('inspector')" class="acts">
        <ActButton data-test="pack-begin" @click="begin">{{ $t('Write a pack of our own') }}</ActButton>
        <label class="file">
          <input type="file" accept=".yaml,.yml" data-test="pack-file" @change="bringIn" />
          <span>{{ $t('Try a pack’s file (YAML)') }}</span>
        </label>
      </span>
    </header>
    <p class="caution">
      {{
        $t(
          'Local law and the authority decide. A pack can be out of date; a text of your own stands on every report that it judged.',
        )
      }}
    </p>
    <StateNote :error="error" />
    <p v-if="said" role="status" :class="wrong.length ? 'stop' : 'small'" data-test="pack-said">{{ said }}</p>
    <ul v-if="wrong.length" data-test="pack-wrong">
      <li v-for="w in wrong" :key="w">{{ w }}</li>
    </ul>
    <div v-if="open !== null" class="work">
      <div class="how" role="group" :aria-label="$t('How it is shown')">
        <button type="button" class="plain" :aria-pressed="!asText" data-test="pack-as-form" @click="asText = false">
          {{ $t('as a form') }}
        </button>
        <button type="button" class="plain" :aria-pressed="asText" data-test="pack-as-text" @click="asText = true">
          {{ $t('as text') }}
        </button>
      </div>
      <PackForm v-if="!asText && text" v-model="text" :wrong="wrongAt" />
      <label v-if="asText" class="field">
        <span>{{ current ? $t('{name}, as text', { name: current.pack.name }) : $t('The pack, as text') }}</span>
        <textarea v-model="text" rows="22" spellcheck="false" data-test="pack-text" />
      </label>
      <span class="acts">
        <ActButton v-if="may('inspector')" :disabled="busy || !text.trim()" data-test="pack-try" @click="tryIt">{{
          $t('Check it, and try it on the vehicles on record')
        }}</ActButton>
        <ActButton variant="text" @click="open = null">{{ $t('Close') }}</ActButton>
      </span>
      <template v-if="trial && tried === text">
        <h3>
          {{
            trial.against
              ? $t('Against version {against}, which is in force', { against: trial.against })
              : $t('No pack of that id is in force: it would be new')
          }}
        </h3>
        <table v-if="trial.changes.length" data-test="pack-changes">
          <thead>
            <tr>
              <th>{{ $t('what') }}</th>
              <th>{{ $t('was') }}</th>
              <th>{{ $t('would be') }}</th>
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
        <p v-else-if="trial.against" class="small">{{ $t('No differences.') }}</p>
        <p class="small" data-test="pack-tried">
          {{
            trial.tried === 1
              ? $t('Tried on 1 inspection of that place:')
              : $t('Tried on {n} inspections of that place:', { n: trial.tried })
          }}
          {{
            trial.vehicles.length
              ? $t('{n} would be judged otherwise.', { n: trial.vehicles.length })
              : $t('none would be judged otherwise.')
          }}
        </p>
        <ul v-if="trial.vehicles.length" class="rows" data-test="pack-effects">
          <li v-for="v in trial.vehicles" :key="v.id">
            <b>{{ v.name }}, {{ v.number }}</b
            >:
            {{
              v.verdict === v.would
                ? verdictWord[v.verdict]
                : $t('{now}, then {then}', {
                    now: verdictWord[v.verdict],
                    then: verdictWord[v.would],
                  })
            }}; {{ v.class === v.then ? v.class : $t('{class}, then {then}', { class: v.class, then: v.then })
            }}{{ v.signed ? $t('. What was signed stays.') : '' }}
          </li>
        </ul>
        <template v-if="may('lead')">
          <label class="field">
            <span>{{ $t('Why it is put in force') }}</span>
            <input v-model="reason" maxlength="400" data-test="pack-reason" />
          </label>
          <ActButton
            variant="flat"
            :disabled="busy || reason.trim().length < 8"
            data-test="pack-publish"
            @click="publish"
            >{{ $t('Put version {version} in force', { version: trial.pack.version }) }}</ActButton
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
          <span class="small">{{
            $t('{pack}, as of {as_of}, version {version}{shipped}', {
              pack: p.pack.kind === 'road' ? $t('law of use') : $t('law of making and sale'),
              as_of: p.pack.as_of,
              version: p.pack.version,
              shipped: p.shipped
                ? $t(', shipped')
                : $t(', own: {by}, {at}: {reason}', { by: p.by, at: date(p.at), reason: p.reason }),
            })
          }}</span>
          <RouterLink :to="`/law/${p.pack.id}`" :class="{ attend: !p.done }" data-test="pack-review">{{
            p.done
              ? $t('reviewed by {by}', { by: p.pack.reviewed?.by ?? '' })
              : p.pack.reviewed?.answered
                ? $t('{n} of {all} read', { n: p.pack.reviewed.answered, all: p.pack.reviewed.asked })
                : $t('nobody here has read it')
          }}</RouterLink>
          <a :href="`/api/rule-packs/${encodeURIComponent(p.pack.id)}`" download>{{ $t('Save as YAML') }}</a>
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
