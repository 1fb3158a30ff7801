<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { api, take, type Fact, type Figure } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { atHand, beyond, carriesSource, chosen, isFigure, labelPart, toolChoice } from '@/lib/evidence'
import { usePhotos } from '@/state/photos'
import { hand, units } from '@/state/session'
import { readNumber, shown, unitShown } from '@/state/units'
import { useWorkshop } from '@/state/workshop'
import SourcePick from './SourcePick.vue'
import StateNote from './StateNote.vue'
import { at as standsAt } from '@/lib/sheet'

/**
 * One field of the conversion sheet with its source; saved when it is left. What is seen of it may say
 * something else too, by the same eye: who sees a lever's switch sees the lever.
 */
const props = defineProps<{ path: string; title?: string; also?: Record<string, string> }>()
const { id, view, evaluation, set, locked, problem: refused } = useInspection()
const { fieldAt, tools, workshop } = useWorkshop()

const field = computed(() => fieldAt(props.path))
const at = (path: string) => standsAt(view.value?.sheet, path)
const said = (path: string) => Boolean((at(path) as Fact | undefined)?.value)
const now = computed(() => at(props.path))
const figureLike = computed(() => isFigure(field.value, props.path))
const sourced = computed(() => carriesSource(field.value, props.path))
/** A repair undid it: what was read before no longer stands, and the same figure is read and typed anew. */
const undone = computed(
  () =>
    evaluation.value?.checks.some((c) =>
      [...c.needs, ...c.sources].some((n) => n.path === props.path && n.why === 'undone'),
    ) ?? false,
)
const value = computed(() => (undone.value ? '' : stored.value))
const stored = computed(() => {
  const v = sourced.value ? (now.value as Figure | Fact | undefined)?.value : now.value
  if (v === null || v === undefined) return ''
  return typeof v === 'number'
    ? String(Number(shown(v, field.value?.unit).toPrecision(units.value === 'us' ? 5 : 7)))
    : String(v)
})
/** What the stored value says where it comes from, as it is chosen on the screen. */
const stands = computed(() => {
  const f = sourced.value ? (now.value as Figure | undefined) : undefined
  if (!f?.source) return ''
  return f.source === 'measured' && f.instrument ? toolChoice(f.instrument) : f.source
})
const choice = ref('')
/** The source was chosen at this field, not offered. */
const own = ref(false)
const draft = useDraft(
  () => `${id}:${props.path}`,
  () => field.value?.unit,
)
const typed = ref('')
/** What was typed here before this page was opened, and never handed in. */
const left = ref(draft.value !== '')
const error = ref('')
watch(
  () => props.path,
  () => (own.value = false),
)
watch(value, (v) => (typed.value = draft.value || v), { immediate: true })
watch(units, () => void nextTick(() => (typed.value = draft.value || value.value)))
watch(
  [stands, field, hand],
  ([s, f], old) => {
    // What was chosen here stays; a tool picked up elsewhere changes only what was offered.
    if (own.value && choice.value && old && s === old[0] && f === old[1]) return
    choice.value = stands.value || atHand(tools.value, f, props.path, figureLike.value, hand.value)
  },
  { immediate: true },
)

const title = computed(() => props.title ?? field.value?.doc ?? props.path)
const word = term
/** What the field is chosen from; a place from the rule packs that this server has. */
const choices = computed(() => {
  if (props.path === 'use.place')
    return (workshop.value?.rule_packs ?? []).map((p) => ({ value: p.id, words: `${p.name}, ${p.as_of}` }))
  const bicycle = view.value?.sheet.kind === 'bicycle' // whose levers work no wheel of a pair
  return (field.value?.enum ?? [])
    .filter((w) => !bicycle || !w.startsWith('pair_'))
    .map((w) => ({ value: w, words: word(w) }))
})

/** What is read off a label or a paper speaks through its photo: whether one is still asked. */
const wantsPhoto = computed(() =>
  evaluation.value?.checks.some((c) =>
    [...c.needs, ...c.doubts].some((n) => n.path === props.path && n.why === 'no_photo'),
  ),
)
const asksPhoto = computed(() => stands.value === 'label' && wantsPhoto.value)
const asksPaper = computed(() => field.value?.kind === 'string' && wantsPhoto.value)
/** A part that is said to differ from its sheet is shown by a photo of its own. */
const asksProof = computed(
  () =>
    props.path.endsWith('.differs') &&
    now.value === true &&
    !view.value?.photos.some((p) => p.what.path === props.path),
)
const { add: addPhoto, busy } = usePhotos()
function photographed(e: Event) {
  const input = e.target as HTMLInputElement
  const shows =
    asksProof.value || asksPaper.value
      ? { view: 'detail', path: props.path }
      : { view: 'label', path: labelPart(props.path) }
  void addPhoto([...(input.files ?? [])], { ...shows, caption: title.value })
  input.value = ''
}
/** What the value that is being typed would contradict, told before it is kept. */
const trial = ref<string[] | null>(null)
const contradicted = computed(
  () => trial.value ?? view.value?.contradictions.filter((c) => c.paths.includes(props.path)).map((c) => c.words) ?? [],
)
const tryIt = useDebounceFn(async () => {
  const v = figureLike.value ? readNumber(typed.value, field.value).v : typed.value
  if (!choice.value || typed.value === '' || typed.value === value.value || v === undefined) {
    trial.value = null
    return
  }
  try {
    const body = { path: props.path, value: { value: v, ...chosen(choice.value) } }
    const t = await take(api.POST('/api/inspections/{id}/try', { params: { path: { id } }, body }))
    trial.value = t.contradictions.filter((c) => c.paths.includes(props.path)).map((c) => c.words)
  } catch {
    trial.value = null // what is wrong with it is said when it is kept
  }
}, 200)
function typing() {
  left.value = false
  draft.value = typed.value === value.value ? '' : typed.value
  if (sourced.value && !props.path.startsWith('given.')) void tryIt()
}
watch(value, () => (trial.value = null))

async function save(v = typed.value, from = choice.value) {
  const f = field.value
  left.value = false
  error.value = ''
  if (f && v.trim() === '' && value.value !== '' && f.kind !== 'boolean' && !choices.value.length) {
    // Emptied: the value is taken back; what it said against the vehicle stays in the record.
    draft.value = ''
    if (!(await set(props.path, null)) && refused.value) {
      error.value = refused.value
      typed.value = value.value
    }
    return
  }
  if (!f || (v === value.value && (!sourced.value || from === stands.value))) return
  if (sourced.value && v !== '' && !from) {
    error.value = $t('First choose where it comes from.')
    return
  }
  const numeric = figureLike.value || f.kind === 'number' || f.kind === 'integer'
  let out: unknown = v
  if (numeric) {
    const { v: n, wrong } = readNumber(v, f)
    if (n === undefined) {
      error.value = v === '' ? '' : wrong
      return
    }
    const past = beyond(tools.value, chosen(from).instrument, f.unit, n)
    if (past) {
      error.value = past
      return
    }
    // Only the source changed: the stored number stays as it is, to the last digit.
    out = v === value.value ? (now.value as Figure).value : n
  }
  if (f.kind === 'boolean') out = v === 'true'
  if (!sourced.value) {
    draft.value = ''
    await set(props.path, out)
    return
  }
  if (v === '') return
  draft.value = '' // from here on it waits as an entry
  const src = chosen(from)
  const path = props.path
  if (!(await set(path, { value: out, ...src }, src.instrument)) && refused.value) {
    if (path === props.path) {
      draft.value = typed.value = v
      error.value = refused.value
    }
    return
  }
  for (const [path, word] of Object.entries(props.also ?? {})) {
    if (!said(path)) await set(path, { value: word, ...src })
  }
}
/**
 * What is said stands; and arrow keys choose each line of a list on their way. A word that is
 * walked to is said when the field is left or Enter is pressed, one that is pointed at at once.
 * It waits for its source as a number does.
 */
let walking = false
function picked(v: string) {
  typed.value = v
  draft.value = v
  if (!walking) void save(v)
}
function key(e: KeyboardEvent) {
  if (e.key === 'Enter') arrived()
  else if (e.key !== 'Tab') walking = true
}
function arrived() {
  const waits = walking
  walking = false
  if (waits && typed.value !== '') void save()
}
function sourceChosen(c: string) {
  own.value = true
  choice.value = c
  if (typed.value !== '') void save(typed.value, c)
}
</script>

<template>
  <div v-if="field" :class="['sheet-field', { guess: stands === 'guessed' }]">
    <SourcePick
      v-if="sourced"
      class="src"
      :path="path"
      :model-value="choice"
      :is-figure="figureLike"
      :disabled="locked"
      @update:model-value="sourceChosen"
    />
    <label class="field">
      <span>{{ title }}{{ field.unit ? `, ${unitShown(field.unit)}` : '' }}</span>
      <select
        v-if="choices.length || field.kind === 'boolean'"
        :value="typed"
        :disabled="locked"
        :data-path="path"
        @keydown="key"
        @pointerdown="walking = false"
        @blur="arrived"
        @change="picked(($event.target as HTMLSelectElement).value)"
      >
        <option value="" disabled>{{ field.kind === 'boolean' ? $t('not given yet') : $t('choose') }}</option>
        <template v-if="field.kind === 'boolean'">
          <option value="false">{{ $t('no') }}</option>
          <option value="true">{{ $t('yes') }}</option>
        </template>
        <option v-for="w in choices" :key="w.value" :value="w.value">{{ w.words }}</option>
      </select>
      <input
        v-else
        v-model="typed"
        :class="{ num: figureLike || field.kind === 'number' }"
        :type="field.format === 'date' ? 'date' : 'text'"
        :inputmode="figureLike || field.kind === 'number' ? 'decimal' : 'text'"
        autocomplete="off"
        :disabled="locked"
        :aria-invalid="error !== ''"
        :data-path="path"
        :placeholder="undone && stored ? $t('was {stored}', { stored }) : undefined"
        @input="typing"
        @change="save()"
      />
    </label>
    <label v-if="(asksPhoto || asksProof || asksPaper) && !locked" class="file snap">
      <input type="file" accept="image/*" capture="environment" :data-label-photo="path" @change="photographed" />
      <span>{{
        busy
          ? $t('Storing…')
          : asksProof
            ? $t('Photo of what differs')
            : asksPaper
              ? $t('Photo of the paper, by a second person')
              : $t('Photo of the label')
      }}</span>
    </label>
    <StateNote :error="error" />
    <p v-if="left && draft && !locked" class="small attend" data-test="left">
      {{ $t('Typed earlier and not saved.') }}
      <button type="button" class="plain" @click="save()">{{ $t('Save it') }}</button>
    </p>
    <p v-for="w in contradicted" :key="w" class="small stop" role="status" data-test="contradiction">{{ w }}</p>
    <p v-if="!error && stands === 'guessed'" class="small attend">{{ $t('A guess settles nothing.') }}</p>
  </div>
</template>

<style scoped>
.sheet-field {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: end;
  align-content: start;
  min-width: 0;
}
.sheet-field > .field:not(.src) {
  flex: 1 1 84px;
  min-width: 0;
}
.sheet-field p {
  flex-basis: 100%;
}
.src {
  flex: 1 1 96px;
  min-width: 0;
}
.src :deep(select) {
  border-color: var(--soft);
}
</style>
