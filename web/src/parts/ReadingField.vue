<script setup lang="ts">
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import type { Figure, Schemas } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { beyond, chosen, suitedTools, toolChoice } from '@/lib/evidence'
import { hand } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { readNumber, shown as shownIn, unitShown, withUnit } from '@/state/units'
import { date, figure } from '@/lib/words'
import SourcePick from './SourcePick.vue'
import StateNote from './StateNote.vue'
import { at } from '@/lib/sheet'

/**
 * The one big figure being worked on: a number pad, its unit, the instrument it
 * was read with and that instrument's certificate, and the readings before it.
 */
const props = defineProps<{ path: string; title: string; window?: string; aim?: number | null }>()
const emit = defineEmits<{ saved: [] }>()
const { id, view, set, locked, problem } = useInspection()
const { tools, fieldAt } = useWorkshop()

const field = computed(() => fieldAt(props.path))
const figureNow = computed(() => at(view.value?.sheet, props.path) as Figure | undefined)
const from = computed(() => view.value?.from[props.path])
const typed = useDraft(() => `${id}:${props.path}`)
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
watch(
  () => props.path,
  () => (error.value = ''),
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
let source: EventSource | null = null
const waiting = ref(false)
function stop() {
  source?.close()
  source = null
  waiting.value = false
}
/** Waits for the next value that a connected tool sends, and takes it with its tool. */
function takeFromTool() {
  if (waiting.value) {
    stop()
    return
  }
  error.value = ''
  waiting.value = true
  source = new EventSource(`/api/readings?kind=${kind.value}`)
  const take = (e: MessageEvent<string>) => {
    const l = JSON.parse(e.data) as Schemas['Line']
    stop()
    if (l.unit && l.unit !== field.value?.unit) {
      error.value = `${l.device ?? 'The tool'} sent ${l.unit}, not ${field.value?.unit}.`
      return
    }
    typed.value = String(Number(shownIn(l.value, field.value?.unit).toPrecision(6)))
    const sent = suited.value.find((t) => t.id === l.device)
    choice.value = sent ? toolChoice(sent.id) : ''
    if (!sent) error.value = `${l.device ?? 'That tool'} is not in the register, or does not reach what is asked here.`
  }
  source.addEventListener('reading', (e) => take(e as MessageEvent<string>))
  source.onmessage = take
}
onBeforeUnmount(stop)
const tool = computed(() => tools.value.find((t) => t.id === toolId.value))
const shown = computed(
  () =>
    typed.value || (figureNow.value?.value != null ? figure(shownIn(figureNow.value.value, field.value?.unit)) : ''),
)

function key(k: string) {
  if (k === '⌫') typed.value = typed.value.slice(0, -1)
  else typed.value += k
}

async function save() {
  const f = field.value
  const { v, wrong } = readNumber(typed.value, f)
  if (v === undefined) {
    error.value = wrong
    return
  }
  if (!choice.value) {
    error.value = 'Choose first what it was read with.'
    return
  }
  error.value = beyond(tools.value, toolId.value, f?.unit, v)
  if (error.value) return
  const value = { value: v, ...chosen(choice.value) }
  const kept = typed.value
  typed.value = '' // from here on it waits as an entry
  if (await set(props.path, value, toolId.value || undefined)) emit('saved')
  else if (problem.value) typed.value = kept
}
</script>

<template>
  <form class="reading" @submit.prevent="save">
    <p v-if="window" class="small">{{ window }}</p>
    <SourcePick v-model="choice" :path="path" title="Read with" :is-figure="true" :aim="aim" :disabled="locked" />
    <p v-if="tool" :class="['small', { attend: tool.lapsed }]">
      {{
        tool.lapsed
          ? `Certificate ran out ${date(tool.valid_to!)}: shows, does not count`
          : tool.valid_to
            ? `Certificate to ${date(tool.valid_to)}`
            : tool.house_check
              ? `In-house check of ${date(tool.house_check.day)}`
              : 'Neither certificate nor in-house check: shows, does not count'
      }}
    </p>
    <label class="big">
      <span class="sr">{{ title }}</span>
      <input
        ref="input"
        v-model="typed"
        class="num"
        inputmode="decimal"
        autocomplete="off"
        :placeholder="shown || '00.0'"
        :disabled="locked"
        :aria-invalid="error !== ''"
        :class="{ had: !typed && shown }"
        data-test="reading"
      />
      <span class="unit">{{ unitShown(field?.unit) }}</span>
    </label>
    <StateNote :error="error" />
    <div class="keys">
      <VBtn type="submit" variant="flat" :disabled="locked" data-test="save-reading">Save reading</VBtn>
      <VBtn :aria-expanded="pad" :disabled="locked" @click="pad = !pad">Keypad</VBtn>
      <VBtn v-if="kind" :disabled="locked" class="wide" data-test="take" @click="takeFromTool">{{
        waiting ? 'Waiting for the tool… (stop)' : 'Take from tool'
      }}</VBtn>
    </div>
    <div v-if="pad" class="pad" role="group" aria-label="Number pad">
      <button
        v-for="k in ['7', '8', '9', '4', '5', '6', '1', '2', '3', '.', '0', '⌫']"
        :key="k"
        type="button"
        :aria-label="k === '⌫' ? 'delete' : k"
        @click="key(k)"
      >
        {{ k }}
      </button>
    </div>
    <p v-if="from" class="small">
      Last {{ withUnit(figureNow?.value, field?.unit) }} by {{ from.by
      }}<template v-if="from.earlier?.length"
        >; before that {{ from.earlier.map((x) => withUnit(x, field?.unit)).join(', ') }}</template
      >
    </p>
  </form>
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
.big input.had::placeholder {
  color: var(--ink);
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
.pad {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 6px;
}
.pad button {
  min-height: 48px;
  font: 600 20px var(--figures);
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
}
</style>
