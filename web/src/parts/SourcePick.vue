<script setup lang="ts">
import { computed } from 'vue'
import { sayable, sourceWord, suitedTools, tellers, toolChoice, twins } from '@/lib/evidence'
import { hand } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { unitShown, width } from '@/state/units'
import { figure } from '@/lib/words'

/**
 * Where a figure comes from, asked before the figure: the tool that was read, or who or what says so. Only what
 * could settle the field is offered, and a guess.
 */
const props = defineProps<{
  path: string
  modelValue: string
  isFigure: boolean
  aim?: number | null
  title?: string
  disabled?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [choice: string] }>()
const { fieldAt, titleAt, tools } = useWorkshop()
const field = computed(() => fieldAt(props.path))
const suited = computed(() => (props.isFigure ? suitedTools(tools.value, field.value, props.aim) : []))
const others = computed(() => (field.value ? sayable(field.value, props.isFigure) : []))
/** What was chosen once and is not offered any more. */
const stray = computed(
  () =>
    props.modelValue !== '' &&
    !others.value.includes(props.modelValue) &&
    !suited.value.some((t) => toolChoice(t.id) === props.modelValue),
)
function pick(choice: string) {
  const unit = field.value?.unit
  hand.value = { ...hand.value, [twins(props.path)]: choice.startsWith('tool:') || choice === 'guessed' ? '' : choice }
  if (unit && choice.startsWith('tool:')) hand.value = { ...hand.value, [unit]: choice.slice(5) }
  // What is told by an eye, a label or a person is told by the same until another is named.
  if (choice !== 'guessed' && !choice.startsWith('tool:'))
    hand.value = { ...hand.value, [tellers(props.isFigure)]: choice }
  emit('update:modelValue', choice)
}
</script>

<template>
  <label class="field pick">
    <span>{{ title ?? $t('from') }}</span>
    <select
      :value="modelValue"
      :disabled="disabled"
      :data-source="path"
      :aria-label="`${title ?? $t('from')}: ${titleAt(path)}`"
      @change="pick(($event.target as HTMLSelectElement).value)"
    >
      <option value="" disabled>{{ $t('choose first') }}</option>
      <optgroup v-if="suited.length" :label="$t('measured with')">
        <option v-for="t in suited" :key="t.id" :value="toolChoice(t.id)">
          {{ t.id }} {{ t.name }}, ±{{
            t.error_pct
              ? `${figure(t.error_pct, 2)} %`
              : `${figure(width(t.a_abs ?? 0, t.unit), 2)} ${unitShown(t.unit)}`
          }}{{ t.lapsed ? $t(' (lapsed)') : '' }}
        </option>
      </optgroup>
      <option v-if="isFigure && !suited.length && field?.unit && field.from?.includes('measured')" disabled value="-">
        {{ $t('measured: no tool on the register measures this') }}
      </option>
      <option v-for="s in others" :key="s" :value="s">{{ sourceWord[s] ?? s }}</option>
      <option v-if="stray" :value="modelValue">
        {{ modelValue.startsWith('tool:') ? modelValue.slice(5) : (sourceWord[modelValue] ?? modelValue) }}
      </option>
    </select>
  </label>
</template>
