<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { who } from '@/app/session'
import { useWorkshop } from '@/app/workshop'
import { severityWord } from '@/app/words'

/**
 * Puts a finding up or down, with a reason. A stop comes down only with a second
 * person's name, and what must never come down is refused by the record itself.
 */
const props = defineProps<{ finding: Schemas['Finding'] }>()
const { say, problem } = useInspection()
const { workshop } = useWorkshop()
const open = ref(false)
const severity = ref('')
const reason = ref('')
const second = ref('')
const wrong = ref('')
const others = computed(() => (workshop.value?.people ?? []).map((p) => p.name).filter((n) => n !== who.value))
const choices = computed(() => Object.keys(severityWord).filter((s) => s !== props.finding.severity))
const needsSecond = computed(
  () => props.finding.two && severity.value !== '' && severity.value !== props.finding.computed,
)
async function judge() {
  wrong.value = !severity.value
    ? 'Choose how it is judged.'
    : !reason.value.trim()
      ? 'Write down why.'
      : needsSecond.value && !second.value
        ? 'A stop comes down only with a second person’s name.'
        : ''
  if (wrong.value) return
  const body = {
    check: props.finding.check,
    output: props.finding.output,
    severity: severity.value,
    reason: reason.value.trim(),
    ...(needsSecond.value ? { countersigned: second.value } : {}),
  }
  if (await say('overrule', body)) {
    open.value = false
    reason.value = severity.value = second.value = ''
  } else wrong.value = problem.value ?? ''
}
</script>

<template>
  <button v-if="!open" type="button" class="plain" data-test="otherwise" @click="open = true">
    Judge otherwise<span class="sr">: {{ finding.title }}</span>
  </button>
  <form v-else class="otherwise" @submit.prevent="judge">
    <label class="field">
      <span>Judged as</span>
      <select v-model="severity" data-test="otherwise-as">
        <option value="" disabled>choose</option>
        <option v-for="s in choices" :key="s" :value="s">{{ severityWord[s] }}</option>
      </select>
    </label>
    <label class="field wide"><span>Because</span><input v-model="reason" data-test="otherwise-why" /></label>
    <label v-if="needsSecond" class="field">
      <span>Countersigned by</span>
      <select v-model="second" data-test="otherwise-second">
        <option value="" disabled>a second person</option>
        <option v-for="n in others" :key="n" :value="n">{{ n }}</option>
      </select>
    </label>
    <VBtn type="submit" data-test="otherwise-ok">Write it down</VBtn>
    <VBtn variant="text" @click="open = false">Leave it</VBtn>
    <p v-if="wrong" class="stop" role="alert" data-test="otherwise-problem">{{ wrong }}</p>
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
