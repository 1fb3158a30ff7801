<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { ref } from 'vue'
import { useInspection } from '@/state/inspection'
import type { Schemas } from '@/api/client'
import SecondPerson from './SecondPerson.vue'
import StateNote from './StateNote.vue'

/** Takes an entry back, with a reason. It stays in the log; it counts no longer. */
const props = defineProps<{ entry: string; what: string }>()
const { say, sayProven, locked, problem } = useInspection()
const asking = ref(false)
const reason = ref('')
const second = ref<Schemas['Proof']>()
const slip = ref(false)
const wrong = ref('')
async function back() {
  if (!reason.value.trim()) {
    wrong.value = $t('Say in a few words why it is taken back.')
    return
  }
  wrong.value = ''
  const body = { entry: props.entry, reason: reason.value.trim(), ...(slip.value ? { slip: true } : {}) }
  if (second.value) wrong.value = await sayProven('correct', body, { second: second.value })
  else if (!(await say('correct', body))) wrong.value = problem.value ?? ''
  if (wrong.value) return
  asking.value = false
  reason.value = ''
  second.value = undefined
}
</script>

<template>
  <button v-if="!asking" type="button" class="plain" :disabled="locked" data-test="take-back" @click="asking = true">
    {{ $t('Take back') }}<span class="sr"> {{ what }}</span>
  </button>
  <form v-else class="back" @submit.prevent="back">
    <label class="field"
      ><span>{{ $t('Why is {what} taken back? It stays in the log.', { what }) }}</span
      ><input v-model="reason" data-test="take-back-why"
    /></label>
    <SecondPerson v-model="second" :why="$t('A bad result ends only with a second person')" />
    <label class="slip"><input v-model="slip" type="checkbox" /> {{ $t('a slip of the finger just now') }}</label>
    <ActButton type="submit" data-test="take-back-ok">{{ $t('Take it back') }}</ActButton>
    <ActButton variant="text" @click="asking = false">{{ $t('Cancel') }}</ActButton>
    <StateNote :error="wrong" />
  </form>
</template>

<style scoped>
.back {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
.back .field {
  flex: 1 1 220px;
}
</style>
