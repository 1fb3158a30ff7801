<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Figure } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { beyond, chosen, suitedTools, toolChoice } from '@/lib/evidence'
import { hand } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { bare, readNumber, shown as shownIn, unitShown, withUnit } from '@/state/units'
import { date, figure } from '@/lib/words'
import NumberPad from './NumberPad.vue'
import SourcePick from './SourcePick.vue'
import StateNote from './StateNote.vue'
import TakeBack from './TakeBack.vue'
import { at } from '@/lib/sheet'
import { told } from '@/lib/told'
import { useToolReading } from '@/state/tool'

/**
 * The one big figure being worked on: a number pad, its unit, the instrument it
 * was read with and that instrument's certificate, and the readings before it.
 */
const props = defineProps<{ path: string; title: string; window?: string; aim?: number | null }>()
const emit = defineEmits<{ saving: []; saved: [] }>()
const { id, view, evaluation, set, locked, problem } = useInspection()
const { tools, fieldAt } = useWorkshop()

const field = computed(() => fieldAt(props.path))
const figureNow = computed(() => at(view.value?.sheet, props.path) as Figure | undefined)
const from = computed(() => view.value?.from[props.path])
const typed = useDraft(
  () => `${id}:${props.path}`,
  () => field.value?.unit,
)
const choice = ref('')
const toolId = computed(() => chosen(choice.value).instrument ?? '')
const error = ref('')
const pad = ref(false)
const input = useTemplateRef('input')
defineExpose({ focus: () => input.value?.focus({ preventScroll: true }) })

const suited = computed(() => suitedTools(tools.value, field.value, props.aim))
/** The tool in hand goes on reading here, as far as it reaches. */
watch(
  [() => props.path, suited],
  ([path], old) => {
    if (path === old?.[0] && choice.value && (!toolId.value || suited.value.some((t) => t.id === toolId.value))) return
    const inHand = suited.value.find((t) => t.id === hand.value[field.value?.unit ?? ''])
    choice.value = inHand ? toolChoice(inHand.id) : ''
  },
  { immediate: true },
)
/** What the reading that was just kept comes to, and which it was: where it holds, the next may be asked already. */
const result = ref<{ path: string; title: string; words: string; failed: boolean } | null>(null)
/** Something was typed or wiped here; until then the field shows what is stored. */
const touched = ref(false)
watch(
  () => props.path,
  (path) => {
    error.value = ''
    if (result.value?.failed && result.value.path !== path) result.value = null
    touched.value = false
    stop() // a tool that was waited for there does not answer here
    void nextTick(() => document.activeElement === input.value && input.value?.select())
  },
)
/** What a tool of this unit sends, by the kind of its lines. */
const kind = computed(
  () =>
    ({
      'N·m': 'torque',
      mm: 'calliper',
      kg: 'scale',
      bar: 'pressure',
      N: 'force',
      '°C': 'thermometer',
      '°': 'tilt',
      V: 'meter',
    })[field.value?.unit ?? ''],
)
/** Takes the next value that a connected tool sends, with its tool. */
const { waiting, wait, stop } = useToolReading(
  (l) => {
    if (l.unit && l.unit !== field.value?.unit) {
      error.value = $t('{device} sent {unit}, not {expected}.', {
        device: l.device ?? $t('The tool'),
        unit: l.unit,
        expected: field.value?.unit,
      })
      return
    }
    entry.value = String(Number(shownIn(l.value, field.value?.unit).toPrecision(6)))
    const sent = suited.value.find((t) => t.id === l.device)
    choice.value = sent ? toolChoice(sent.id) : ''
    if (!sent)
      error.value = $t('{device} is not in the register, or does not reach what is asked here.', {
        device: l.device ?? $t('That tool'),
      })
  },
  (why) => (error.value = why),
)
function takeFromTool() {
  error.value = ''
  result.value = null
  if (waiting.value) stop()
  else wait(kind.value!)
}
const tool = computed(() => tools.value.find((t) => t.id === toolId.value))
const shown = computed(
  () =>
    typed.value || (figureNow.value?.value != null ? figure(shownIn(figureNow.value.value, field.value?.unit)) : ''),
)

/** What stands in the field: what is typed, else what is stored. */
const entry = computed({
  get: () => (touched.value || typed.value ? typed.value : shown.value),
  set: (t) => {
    touched.value = true
    typed.value = t
    error.value = ''
    result.value = null
  },
})
function key(k: string) {
  const now = touched.value || typed.value ? typed.value : ''
  entry.value = k === '⌫' ? now.slice(0, -1) : now + k
}

function tell() {
  const write = { bare, full: withUnit }
  const value = figureNow.value?.value
  if (value == null) return
  const t = told(evaluation.value?.checks ?? [], props.path, value, field.value?.unit, write)
  result.value = { path: props.path, title: props.title, ...t }
}

async function save() {
  const f = field.value
  if (!touched.value && !typed.value && shown.value) {
    error.value = $t('Type the new reading: the one shown is saved already.')
    return
  }
  const { v, wrong } = readNumber(typed.value, f)
  if (v === undefined) {
    error.value = wrong
    return
  }
  if (!choice.value) {
    error.value = $t('First choose what it was read with.')
    return
  }
  error.value = beyond(tools.value, toolId.value, f?.unit, v)
  if (error.value) return
  const value = { value: v, ...chosen(choice.value) }
  const kept = typed.value
  const path = props.path
  typed.value = '' // from here on it waits as an entry
  touched.value = false
  const before = view.value?.seq
  emit('saving')
  if (await set(path, value, toolId.value || undefined)) {
    await judgedAgain(before)
    if (path !== props.path) return // moved on meanwhile
    tell()
    if (!result.value?.failed) emit('saved')
  } else if (problem.value) {
    if (path === props.path) entry.value = kept
    error.value = problem.value
  }
}
/** The judgement comes by the stream, a moment after the entry is on the disk. */
function judgedAgain(before: number | undefined): Promise<void> {
  return new Promise((done) => {
    if (view.value?.seq !== before) return done() // it was here first
    const end = setTimeout(finish, 1500)
    const off = watch(view, (v) => v && v.seq !== before && finish())
    function finish() {
      clearTimeout(end)
      off()
      done()
    }
  })
}
</script>

<template>
  <form class="reading" @submit.prevent="save">
    <p v-if="window" class="small">{{ window }}</p>
    <SourcePick
      v-model="choice"
      :path="path"
      :title="$t('Read with')"
      :is-figure="true"
      :aim="aim"
      :disabled="locked"
    />
    <p v-if="tool" :class="['small', { attend: tool.lapsed }]">
      {{
        tool.lapsed
          ? $t('Certificate expired {valid_to}: shown, does not count', { valid_to: date(tool.valid_to!) })
          : tool.valid_to
            ? $t('Certificate to {valid_to}', { valid_to: date(tool.valid_to) })
            : tool.house_check
              ? $t('In-house check on {day}', { day: date(tool.house_check.day) })
              : $t('No certificate or in-house check: shown, does not count')
      }}
    </p>
    <label class="big">
      <span class="sr">{{ title }}</span>
      <input
        ref="input"
        v-model="entry"
        class="num"
        inputmode="decimal"
        autocomplete="off"
        placeholder="00.0"
        :disabled="locked"
        :aria-invalid="error !== ''"
        data-test="reading"
        @focus="($event.target as HTMLInputElement).select()"
      />
      <span class="unit">{{ unitShown(field?.unit) }}</span>
    </label>
    <StateNote :error="error" />
    <p v-if="result" :class="result.failed ? 'stop' : 'holds'" role="status" data-test="told">
      {{ result.path === path ? '' : `${result.title}: ` }}{{ result.words }}
    </p>
    <div class="keys">
      <ActButton type="submit" variant="flat" :disabled="locked" data-test="save-reading">{{
        $t('Save reading')
      }}</ActButton>
      <ActButton :aria-expanded="pad" :disabled="locked" @click="pad = !pad">{{ $t('Keypad') }}</ActButton>
      <ActButton v-if="kind" :disabled="locked" class="wide" data-test="take" @click="takeFromTool">{{
        waiting ? $t('Waiting for the tool… (stop)') : $t('Take from tool')
      }}</ActButton>
    </div>
    <NumberPad v-if="pad" @key="key" />
    <p v-if="from && figureNow?.value != null" class="small">
      {{ $t('Last {value} by {by}', { value: withUnit(figureNow?.value, field?.unit), by: from.by })
      }}<template v-if="from.earlier?.length">{{
        $t('; before that {values}', { values: from.earlier.map((x) => withUnit(x, field?.unit)).join(', ') })
      }}</template>
    </p>
  </form>
  <TakeBack
    v-if="from && figureNow?.value != null"
    :key="from.entry"
    :entry="from.entry"
    :what="$t('{value} by {by}', { value: withUnit(figureNow.value, field?.unit), by: from.by })"
  />
</template>

<style scoped>
.reading {
  display: grid;
  gap: 10px;
}
.big {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.big input {
  font: 700 56px/1 var(--figures);
  width: 5.2ch;
  min-height: 66px;
  padding: 0 4px;
  border: 0;
  border-bottom: 3px solid var(--jade);
  border-radius: 0;
  background: transparent;
}
.big input::placeholder {
  color: var(--line);
  opacity: 1;
}
.unit {
  font-size: 18px;
}
.keys {
  display: grid;
  grid-template-columns: 3fr 2fr;
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
</style>
