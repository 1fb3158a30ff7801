<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import StateNote from '@/parts/StateNote.vue'
import { notNumber, parseNumber } from '@/lib/number'

/** What is to be done, in order: most steps tick themselves, the rest are tapped. */
const props = defineProps<{
  steps: Schemas['StepState'][]
  running: boolean
  /** Seconds since the tap before. */
  since?: number
}>()
const early = (s: Schemas['StepState']) => Boolean(s.seconds && (props.since ?? 0) < s.seconds)
const emit = defineEmits<{ tap: [step: string, value: number | null] }>()
const value = ref('')
const problem = ref('')
const next = computed(() => props.steps.find((s) => !s.done) ?? props.steps.find((s) => s.again))
/** A step that the recording cannot show may be tapped when those before it that are tapped are done. */
const ready = computed(() => props.steps.find((s) => s.tap && !s.done) ?? props.steps.find((s) => s.again))
function tap(s: Schemas['StepState']) {
  const n = parseNumber(value.value)
  if (s.ask && value.value.trim() && n === undefined) {
    problem.value = `${s.ask}: ${notNumber(value.value)}`
    return
  }
  problem.value = ''
  emit('tap', s.id, s.ask ? (n ?? null) : null)
  value.value = ''
}
</script>

<template>
  <ol class="steps" data-test="steps">
    <li v-for="s in steps" :key="s.id" :class="{ done: s.done, now: running && s === next }" :data-step="s.id">
      <i aria-hidden="true">{{ s.done ? '✓' : '' }}</i>
      <span class="what"
        >{{ s.words }}<span class="sr">{{ s.done ? $t(': seen') : '' }}</span></span
      >
      <form v-if="running && s.tap && s === ready" class="tap" @submit.prevent="tap(s)">
        <label v-if="s.ask" class="field">
          <span>{{ s.ask }}</span>
          <input v-model="value" class="num" inputmode="decimal" data-test="step-value" />
        </label>
        <ActButton type="submit" variant="flat" :disabled="early(s)" :data-test="`tap-${s.id}`">{{
          early(s)
            ? $t('{done} of {seconds} s', { done: Math.floor(since ?? 0), seconds: s.seconds })
            : s.again
              ? $t('This mode is read')
              : $t('Done')
        }}</ActButton>
      </form>
    </li>
  </ol>
  <StateNote :error="problem" />
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  padding: 7px 0;
  border-top: 1px solid var(--line);
  color: var(--soft);
}
.now,
.done {
  color: var(--ink);
}
.now .what {
  font-weight: 700;
}
.what {
  flex: 1 1 14em;
}
i {
  flex: 0 0 22px;
  height: 22px;
  border: 1.5px solid var(--soft);
  border-radius: 3px;
  font: 700 15px/19px var(--words);
  text-align: center;
}
.done i {
  border-color: var(--jade);
  background: var(--jade-pale);
  color: var(--jade-text);
}
.now i {
  border-color: var(--ink);
  border-width: 2px;
}
.tap {
  display: flex;
  gap: 10px;
  align-items: end;
}
.tap .field {
  width: 130px;
}
</style>
