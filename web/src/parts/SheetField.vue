<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, take, type Fact, type Figure } from '@/api/client'
import { useDraft } from '@/app/draft'
import { useInspection } from '@/app/inspection'
import { lastTool } from '@/app/session'
import { shown, stored, unitShown } from '@/app/units'
import { withUnit } from '@/app/words'
import { useWorkshop } from '@/app/workshop'

/** One field of the conversion sheet with its source; saved when it is left. */
const props = defineProps<{ path: string; title?: string }>()
const { id, view, set, locked } = useInspection()
const { fieldAt, tools } = useWorkshop()

const field = computed(() => fieldAt(props.path))
const now = computed<unknown>(() => {
  let v: unknown = view.value?.sheet
  for (const k of props.path.split('.')) v = (v as Record<string, unknown> | null | undefined)?.[k]
  return v
})
/** Readings of a calculation are described as plain numbers and words; on the sheet they carry a source. */
const figureLike = computed(
  () =>
    field.value?.kind === 'figure' ||
    (props.path.startsWith('given.') && (field.value?.kind === 'number' || field.value?.kind === 'integer')),
)
const sourced = computed(
  () =>
    figureLike.value ||
    field.value?.kind === 'fact' ||
    (props.path.startsWith('given.') && field.value?.kind === 'string'),
)
const value = computed(() => {
  const v = sourced.value ? (now.value as Figure | Fact | undefined)?.value : now.value
  if (v === null || v === undefined) return ''
  return typeof v === 'number' ? String(Number(shown(v, field.value?.unit).toPrecision(7))) : String(v)
})
const source = computed(() => (sourced.value ? ((now.value as Figure | undefined)?.source ?? '') : ''))
const tool = computed(() => (now.value as Figure | undefined)?.instrument ?? '')
const draft = useDraft(() => `${id}:${props.path}`)
const typed = ref('')
const error = ref('')
watch(value, (v) => (typed.value = draft.value || v), { immediate: true })

const suited = computed(() =>
  tools.value.filter((t) => (field.value?.unit === 'N·m' ? t.kind === 'torque' : t.unit === field.value?.unit)),
)
const title = computed(() => props.title ?? field.value?.doc ?? props.path)
const word = (w: string) => w.replaceAll('_', ' ')

/** The tool last used in this unit, else the first that may be used at this value. */
function usual(unit: string, v: number): string {
  const good = suited.value.filter((x) => !x.lapsed && (x.reach_max == null || (v >= x.reach_min! && v <= x.reach_max)))
  return (good.find((x) => x.id === lastTool.value[unit]) ?? good[0])?.id ?? ''
}
/** What the value that is being typed would contradict, told before it is kept. */
const trial = ref<string[] | null>(null)
const contradicted = computed(
  () => trial.value ?? view.value?.contradictions.filter((c) => c.paths.includes(props.path)).map((c) => c.words) ?? [],
)
const tryIt = useDebounceFn(async () => {
  const n = stored(Number(typed.value.replace(',', '.')), field.value?.unit)
  const v = figureLike.value ? n : typed.value
  if (typed.value === '' || typed.value === value.value || (figureLike.value && !Number.isFinite(n))) {
    trial.value = null
    return
  }
  try {
    const body = { path: props.path, value: { value: v, source: source.value || 'label' } }
    const t = await take(api.POST('/api/inspections/{id}/try', { params: { path: { id } }, body }))
    trial.value = t.contradictions.filter((c) => c.paths.includes(props.path)).map((c) => c.words)
  } catch {
    trial.value = null // what is wrong with it is said when it is kept
  }
}, 200)
function typing() {
  draft.value = typed.value === value.value ? '' : typed.value
  if (sourced.value && !props.path.startsWith('given.')) void tryIt()
}
watch(value, () => (trial.value = null))

async function save(v = typed.value, s = source.value, t = tool.value) {
  const f = field.value
  error.value = ''
  if (!f || (v === value.value && s === source.value && t === tool.value)) return
  const numeric = figureLike.value || f.kind === 'number' || f.kind === 'integer'
  let out: unknown = v
  if (numeric) {
    const n = stored(Number(v.replace(',', '.')), f.unit)
    if (v === '' || !Number.isFinite(n)) {
      error.value = v === '' ? '' : 'Type a number.'
      return
    }
    if ((f.min != null && n < f.min) || (f.max != null && n > f.max)) {
      error.value = `Out of range: ${withUnit(f.min, f.unit)} to ${withUnit(f.max, f.unit)}.`
      return
    }
    // Only the source changed: the stored number stays as it is, to the last digit.
    out = v === value.value ? (now.value as Figure).value : n
  }
  if (f.kind === 'boolean') out = v === 'true'
  draft.value = '' // from here on it waits as an entry
  if (!sourced.value) {
    await set(props.path, out)
    return
  }
  if (v === '') return
  const src = s || (figureLike.value && suited.value.length ? 'measured' : 'label')
  const unit = f.unit ?? ''
  const instrument = src === 'measured' ? t || (s ? '' : usual(unit, out as number)) : ''
  if (instrument) lastTool.value = { ...lastTool.value, [unit]: instrument }
  await set(props.path, { value: out, source: src, ...(instrument ? { instrument } : {}) }, instrument || undefined)
}
</script>

<template>
  <div v-if="field" :class="['sheet-field', { guess: source === 'guessed' }]">
    <label class="field">
      <span>{{ title }}{{ field.unit ? `, ${unitShown(field.unit)}` : '' }}</span>
      <select
        v-if="field.enum?.length || field.kind === 'boolean'"
        :value="value"
        :disabled="locked"
        :data-path="path"
        @change="save(($event.target as HTMLSelectElement).value)"
      >
        <option value="" disabled>choose</option>
        <template v-if="field.kind === 'boolean'">
          <option value="false">no</option>
          <option value="true">yes</option>
        </template>
        <option v-for="w in field.enum" :key="w" :value="w">{{ word(w) }}</option>
      </select>
      <input
        v-else
        v-model="typed"
        :class="{ num: figureLike || field.kind === 'number' }"
        :inputmode="field.kind === 'figure' || field.kind === 'number' ? 'decimal' : 'text'"
        autocomplete="off"
        :disabled="locked"
        :aria-invalid="error !== ''"
        :data-path="path"
        @input="typing"
        @change="save()"
      />
    </label>
    <label v-if="sourced" class="field src">
      <span>from</span>
      <select
        :value="source"
        :disabled="locked || value === ''"
        :data-source="path"
        @change="save(typed, ($event.target as HTMLSelectElement).value)"
      >
        <option value="" disabled>source</option>
        <option value="kit_sheet">kit sheet</option>
        <option value="label">label</option>
        <option value="measured">measured</option>
        <option value="guessed">guessed</option>
      </select>
    </label>
    <label v-if="source === 'measured' && figureLike && suited.length" class="field src">
      <span>with</span>
      <select
        :value="tool"
        :disabled="locked"
        @change="save(typed, source, ($event.target as HTMLSelectElement).value)"
      >
        <option value="">no tool</option>
        <option v-for="t in suited" :key="t.id" :value="t.id">{{ t.id }}{{ t.lapsed ? ' (lapsed)' : '' }}</option>
      </select>
    </label>
    <p v-if="error" class="stop" role="alert">{{ error }}</p>
    <p v-for="w in contradicted" :key="w" class="small stop" role="status" data-test="contradiction">{{ w }}</p>
    <p v-if="!error && source === 'guessed'" class="small attend">A guess: never passes a safety check.</p>
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
.sheet-field > .field:first-child {
  flex: 1 1 84px;
  min-width: 0;
}
.sheet-field p {
  flex-basis: 100%;
}
.src select {
  border-color: var(--line);
}
</style>
