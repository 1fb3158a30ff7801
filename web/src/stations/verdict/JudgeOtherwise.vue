<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { severityWord } from '@/lib/words'
import SecondPerson from '@/parts/SecondPerson.vue'
import StateNote from '@/parts/StateNote.vue'

/**
 * Puts a finding up, or a "mend before release" down to a watch, with a reason. Who may, and what never comes down,
 * the record itself says.
 */
const props = defineProps<{ finding: Schemas['Finding'] }>()
const { say, sayProven, problem } = useInspection()
const open = ref(false)
const severity = ref('')
const reason = ref('')
const wrong = ref('')
const second = ref<Schemas['Proof']>()
/** A stop comes down to "mend before release" only with a second person. */
const two = computed(() => props.finding.two && severity.value === 'fix')
const ranks = ['note', 'watch', 'fix', 'stop']
const choices = computed(() => {
  const up = ranks.slice(ranks.indexOf(props.finding.computed) + 1)
  return props.finding.computed === 'fix' ? ['watch', ...up] : props.finding.computed === 'stop' ? ['fix'] : up
})
async function judge() {
  wrong.value = !severity.value
    ? $t('Choose how it is judged.')
    : !reason.value.trim()
      ? $t('Write down why.')
      : two.value && !second.value
        ? $t('Name the second person who stands by it.')
        : ''
  if (wrong.value) return
  const body = {
    check: props.finding.check,
    output: props.finding.output,
    severity: severity.value,
    reason: reason.value.trim(),
  }
  if (second.value) wrong.value = await sayProven('overrule', body, { second: second.value })
  else if (!(await say('overrule', body))) wrong.value = problem.value ?? ''
  if (wrong.value) return
  open.value = false
  reason.value = severity.value = ''
  second.value = undefined
}
</script>

<template>
  <button v-if="!open && choices.length" type="button" class="plain" data-test="otherwise" @click="open = true">
    {{ $t('Override this finding') }}<span class="sr">: {{ finding.title }}</span>
  </button>
  <form v-else-if="open" class="otherwise" @submit.prevent="judge">
    <label class="field">
      <span>{{ $t('Judged as') }}</span>
      <select v-model="severity" data-test="otherwise-as">
        <option value="" disabled>{{ $t('choose') }}</option>
        <option v-for="s in choices" :key="s" :value="s">{{ severityWord[s] }}</option>
      </select>
    </label>
    <label class="field wide"
      ><span>{{ $t('Because') }}</span
      ><input v-model="reason" data-test="otherwise-why"
    /></label>
    <SecondPerson v-if="two" v-model="second" :why="$t('A stop comes down only with a second person')" />
    <ActButton type="submit" data-test="otherwise-ok">{{ $t('Save') }}</ActButton>
    <ActButton variant="text" @click="open = false">{{ $t('Cancel') }}</ActButton>
    <StateNote :error="wrong" data-test="otherwise-problem" />
  </form>
</template>

<style scoped>
.otherwise {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
  margin-top: 6px;
}
.field {
  flex: 0 1 190px;
}
.wide {
  flex: 1 1 240px;
}
</style>
