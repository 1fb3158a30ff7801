<script setup lang="ts">
import { $t } from '@/lib/say'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, faultLine, faults, sendFile, take, type Schemas } from '@/api/client'
import { date } from '@/lib/words'
import { useKeys } from '@/lib/keys'
import { may, who, workshopName } from '@/state/session'
import ActButton from '@/parts/ActButton.vue'
import GateMark from '@/parts/GateMark.vue'
import KeyHelp from '@/parts/KeyHelp.vue'
import PersonButton from '@/parts/PersonButton.vue'
import StateNote from '@/parts/StateNote.vue'

// The form of a bound brings the reader of YAML with it.
const FactForm = defineAsyncComponent(() => import('./FactForm.vue'))

/**
 * The law of a place, read once by a lead of this workshop: each fact with where it stands, how sure it is and what it
 * means for a vehicle. Progress is kept with every answer.
 */
const props = defineProps<{ pack: string }>()
type Fact = Schemas['LawFact']
const client = useQueryClient()
const router = useRouter()
const key = computed(() => ['law-review', props.pack])
const { data: review, error } = useQuery({
  queryKey: key,
  queryFn: () => take(api.GET('/api/law-reviews/{id}', { params: { path: { id: props.pack } } })),
})
const reading = computed(() => may('lead'))
const grades: Record<string, string> = { c: $t('certain'), l: $t('likely'), u: $t('unsure') }
const said = ref('')
const wrong = ref<string[]>([])
const busy = ref('')
const open = ref('')
/** An answered fact that is answered once more. */
const again = ref('')
/** The text that one reads from, and the section of a fact where it is another one. */
const chosen = ref('')
const text = computed(() => chosen.value || (review.value?.texts?.at(-1)?.sha256 ?? ''))
const sections = ref<Record<string, string>>({})
const idOf = (f: Fact) => `${f.field}.${f.classes?.[0]}`
/** One reads on where one read last. */
const last = ref('')
const sectionOf = (f: Fact) => sections.value[idOf(f)] ?? f.answer?.section ?? (f.section || last.value)
const left = computed(() => (review.value ? review.value.reviewed!.asked - review.value.reviewed!.answered : 0))
const next = computed(() => review.value?.facts?.find((f) => !f.answer))

function failed(x: unknown) {
  wrong.value = faults(x).map(faultLine)
  said.value = wrong.value.length ? '' : $t('It was not stored. Try again.')
}
async function answer(f: Fact, status: 'confirmed' | 'changed' | 'unsure', more: Partial<Schemas['Ask']> = {}) {
  if (!review.value) return
  busy.value = idOf(f)
  said.value = ''
  wrong.value = []
  try {
    const r = await take(
      api.POST('/api/law-reviews/{id}', {
        params: { path: { id: props.pack } },
        body: {
          classes: f.classes,
          field: f.field,
          status,
          section: sectionOf(f),
          text: text.value || undefined,
          version: review.value.version,
          ...more,
        },
      }),
    )
    client.setQueryData(key.value, r)
    last.value = sectionOf(f)
    open.value = again.value = ''
    void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'law-review' })
  } catch (x) {
    failed(x)
    open.value = idOf(f)
  }
  busy.value = ''
}
async function second(f: Fact) {
  wrong.value = []
  try {
    client.setQueryData(
      key.value,
      await take(
        api.POST('/api/law-reviews/{id}/second', {
          params: { path: { id: props.pack } },
          body: { classes: f.classes, field: f.field },
        }),
      ),
    )
  } catch (x) {
    failed(x)
  }
}
async function bringText(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  wrong.value = []
  try {
    const t = await sendFile<Schemas['LawText']>(
      `/api/law-reviews/${encodeURIComponent(props.pack)}/texts?name=${encodeURIComponent(file.name)}`,
      file,
      'application/octet-stream',
    )
    chosen.value = t.sha256
    await client.invalidateQueries({ queryKey: key.value })
  } catch (x) {
    failed(x)
  }
}
const help = ref(false)
const keys = useKeys([
  {
    key: 'n',
    does: $t('next fact that nobody read'),
    run: () => next.value && document.getElementById(idOf(next.value))?.scrollIntoView({ block: 'center' }),
  },
  { key: 'w', does: $t('workshop: tools, kit sheets'), run: () => void router.push('/workshop') },
  { key: '?', does: $t('these keys'), run: () => (help.value = !help.value) },
])
const status: Record<string, string> = {
  confirmed: $t('so it stands'),
  changed: $t('the law says otherwise'),
  unsure: $t('left unsure'),
}
/** A power whose figure the law leaves open is answered by which figure it means. */
const readings = {
  rated_continuous: $t('It means the maker’s rating'),
  shaft: $t('It means what the motor gives'),
} as const
const mark = (f: Fact) => (!f.answer ? 'not_begun' : f.waits || f.answer.status === 'unsure' ? 'held' : 'open')
</script>

<template>
  <div class="page">
    <header class="mast">
      <h1>
        <RouterLink to="/">{{ $t('Jade Gate') }}</RouterLink>
      </h1>
      <span>{{ $t('{place} · law of a place', { place: workshopName.place }) }}</span>
      <RouterLink class="plain link" to="/workshop">{{ $t('Workshop') }}</RouterLink>
      <span class="gap" />
      <KeyHelp v-model="help" :keys="keys" />
      <PersonButton />
    </header>
    <main id="work" tabindex="-1">
      <StateNote :error="error" />
      <section v-if="review" class="panel head" data-test="law-review">
        <header>
          <h2>{{ $t('Read the law: {name}', { name: review.name }) }}</h2>
          <b :class="{ attend: !review.done }" data-test="law-progress">{{
            $t('{n} of {all} read', { n: review.reviewed!.answered, all: review.reviewed!.asked })
          }}</b>
        </header>
        <progress :value="review.reviewed!.answered" :max="review.reviewed!.asked" :aria-label="$t('Read so far')" />
        <p>
          {{
            review.made_up
              ? $t('Made up: it binds nobody, and is chosen in a practice workshop only.')
              : $t(
                  'What the program came with is nobody’s word. Take the text of the law, and say of each fact whether it stands there. Until all are read, no vehicle is passed as a class of this place; what fails, fails as ever.',
                )
          }}
        </p>
        <p v-if="review.done" data-test="law-done">
          {{
            $t('{words}; to be read again from {due}.', { words: review.words, due: date(review.reviewed!.due ?? '') })
          }}
          <template v-if="review.reviewed!.unsure">{{
            $t('{n} left unsure: no vehicle passes a class by those.', { n: review.reviewed!.unsure })
          }}</template>
        </p>
        <p class="small">
          {{
            $t('Sources: {sources}. As of {as_of}, version {version}.', {
              sources: (review.sources ?? []).map((s) => `${s.title}, ${s.year}`).join('; '),
              as_of: date(review.as_of),
              version: review.version,
            })
          }}
        </p>
        <ul v-if="review.notes?.length" class="small notes">
          <li v-for="n in review.notes" :key="n">{{ n }}</li>
        </ul>
        <p v-if="review.based_on" class="small">
          <RouterLink :to="`/law/${review.based_on}`">{{ $t('The product law that it leans on') }}</RouterLink>
        </p>
        <div class="texts">
          <label v-for="t in review.texts" :key="t.sha256" class="text">
            <input v-model="chosen" type="radio" name="text" :value="t.sha256" :checked="text === t.sha256" />
            <a :href="`/api/law-reviews/${encodeURIComponent(pack)}/texts/${t.sha256}`" target="_blank">{{ t.name }}</a>
          </label>
          <label v-if="reading" class="file">
            <input type="file" accept=".pdf,.txt,image/png,image/jpeg" data-test="law-text" @change="bringText" />
            <span>{{ $t('Put the law’s text here (PDF, photo or text)') }}</span>
          </label>
        </div>
        <p v-if="!review.texts?.length" class="attend">
          {{ $t('First put the text of the law here: each answer names the section that you read in it.') }}
        </p>
      </section>
      <p v-if="said" class="stop" role="alert">{{ said }}</p>
      <ul v-if="wrong.length" role="alert" data-test="law-wrong">
        <li v-for="w in wrong" :key="w" class="stop">{{ w }}</li>
      </ul>
      <ol v-if="review" class="facts">
        <li
          v-for="f in review.facts"
          :id="idOf(f)"
          :key="idOf(f)"
          class="panel fact"
          :data-fact="idOf(f)"
          :data-status="f.answer?.status ?? ''"
        >
          <GateMark :state="mark(f)" :size="26" :label="f.answer ? status[f.answer.status]! : $t('not read yet')" />
          <div class="words">
            <h3>{{ f.title }}</h3>
            <p class="small">{{ (f.names ?? []).join(' · ') }}</p>
            <p class="means">{{ f.answer?.status === 'changed' && !f.waits ? f.now : f.means }}</p>
            <p v-if="f.question && f.answer?.status !== 'changed'" class="attend">
              {{ $t('The law is asked: {question}', { question: f.question }) }}
            </p>
            <p class="small">
              {{ f.source }}<template v-if="f.section">, {{ f.section }}</template
              ><span v-if="f.grade" :class="{ attend: f.grade !== 'c' }"> · {{ grades[f.grade] }}</span>
            </p>
            <p v-if="f.answer" class="small" data-test="law-answer">
              {{ status[f.answer.status] }}<template v-if="f.answer.section">: {{ f.answer.section }}</template> ({{
                f.answer.by
              }}, {{ date(f.answer.at)
              }}<template v-if="f.answer.second"
                >; {{ $t('{second} stands by it', { second: f.answer.second }) }}</template
              >)
            </p>
            <p v-if="f.waits" class="attend">
              {{ $t('Looser than what came with the program: it counts once another person has read it too.') }}
              <ActButton v-if="may('inspector') && f.answer?.by !== who" data-test="law-second" @click="second(f)">{{
                $t('I read it too: stand by it')
              }}</ActButton>
            </p>
          </div>
          <button
            v-if="reading && f.answer && again !== idOf(f)"
            type="button"
            class="plain anew"
            data-test="law-again"
            @click="again = idOf(f)"
          >
            {{ $t('Answer again') }}
          </button>
          <div v-else-if="reading" class="acts">
            <label class="field">
              <span>{{ $t('Section') }}</span>
              <input
                :value="sectionOf(f)"
                maxlength="200"
                data-test="law-section"
                @input="sections[idOf(f)] = ($event.target as HTMLInputElement).value"
              />
            </label>
            <ActButton
              v-if="!f.question"
              :variant="f.answer ? undefined : 'flat'"
              :disabled="!!busy"
              data-test="law-confirm"
              @click="answer(f, 'confirmed')"
              >{{ $t('So it stands there') }}</ActButton
            >
            <template v-if="f.unstated">
              <ActButton
                v-for="(words, basis) in readings"
                :key="basis"
                :disabled="!!busy"
                :data-test="`law-read-as-${basis}`"
                @click="answer(f, 'changed', { read_as: basis })"
                >{{ words }}</ActButton
              >
            </template>
            <ActButton
              v-else-if="f.question"
              :disabled="!!busy"
              data-test="law-free"
              @click="answer(f, 'changed', { free: true })"
              >{{ $t('It asks nothing') }}</ActButton
            >
            <ActButton
              :disabled="!!busy"
              :aria-expanded="open === idOf(f)"
              data-test="law-change"
              @click="open = open === idOf(f) ? '' : idOf(f)"
              >{{ f.question ? $t('It asks this …') : $t('It says otherwise …') }}</ActButton
            >
            <ActButton
              v-if="f.question"
              variant="text"
              :disabled="!!busy"
              data-test="law-unsure"
              @click="answer(f, 'unsure')"
              >{{ $t('Leave it unsure') }}</ActButton
            >
          </div>
          <FactForm
            v-if="open === idOf(f)"
            class="form"
            :fact="f"
            @free="answer(f, 'changed', { free: true })"
            @bound="(b) => answer(f, 'changed', { bound: b })"
          />
        </li>
      </ol>
      <p v-if="review" class="small" data-test="law-left">
        {{ left ? $t('{n} still to read.', { n: left }) : $t('All are read.') }}
        {{ $t('Local law and the authority decide.') }}
      </p>
    </main>
  </div>
</template>

<style scoped>
main {
  outline: none;
  display: grid;
  gap: 12px;
  padding: 16px 20px 24px;
  max-width: 1080px;
  margin: 0 auto;
}
.gap {
  flex: 1;
}
progress {
  width: 100%;
  height: 8px;
  accent-color: var(--jade);
}
.notes {
  margin: 0;
  padding-left: 18px;
}
.texts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
}
.text {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 44px;
}
.facts {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.fact {
  display: grid;
  grid-template-columns: 32px minmax(0, 1fr) minmax(220px, 300px);
  gap: 6px 14px;
}
.words p {
  margin: 2px 0;
}
.means {
  font-size: 17px;
}
.fact .acts {
  display: grid;
  gap: 6px;
  align-content: start;
}
.anew {
  justify-self: end;
  align-self: start;
}
.form {
  grid-column: 2 / -1;
}
@media (max-width: 760px) {
  .fact {
    grid-template-columns: 32px minmax(0, 1fr);
  }
  .fact .acts,
  .form {
    grid-column: 1 / -1;
  }
}
</style>
