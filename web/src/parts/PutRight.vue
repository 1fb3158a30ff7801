<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { ref } from 'vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import StateNote from './StateNote.vue'

/** What was done about a failed check. Only then does a new look or a new reading count. */
const props = defineProps<{ check: string; ends: string }>()
const { id, say, problem } = useInspection()
const writing = ref(false)
const how = useDraft(() => `${id}:put-right:${props.check}`)
const part = ref('')
const wrong = ref('')
async function write() {
  wrong.value = ''
  if (!how.value.trim()) wrong.value = $t('Say in a few words what was done.')
  else if (props.ends === 'part' && !part.value.trim())
    wrong.value = $t('Name the new part: this is not cured in place.')
  if (wrong.value) return
  const done = await say('repair', {
    operations: [],
    put_right: [props.check],
    note: how.value.trim(),
    ...(part.value.trim() ? { part: part.value.trim() } : {}),
  })
  if (done) {
    how.value = ''
    part.value = ''
    writing.value = false
  } else wrong.value = problem.value ?? ''
}
</script>

<template>
  <div class="put-right">
    <button v-if="!writing" type="button" class="plain" data-test="put-right" @click="writing = true">
      {{ $t('Put right…') }}
    </button>
    <form v-else @submit.prevent="write">
      <label class="field"
        ><span>{{ $t('What was done') }}</span
        ><input v-model="how" data-test="put-right-how"
      /></label>
      <label v-if="ends === 'part'" class="field"
        ><span>{{ $t('New part fitted') }}</span
        ><input v-model="part" data-test="put-right-part"
      /></label>
      <ActButton type="submit" data-test="put-right-ok">{{ $t('Save') }}</ActButton>
      <ActButton variant="text" @click="writing = false">{{ $t('Cancel') }}</ActButton>
      <p class="small">{{ $t('The check opens again: look or measure anew.') }}</p>
      <StateNote :error="wrong" />
    </form>
  </div>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
form .field {
  flex: 1 1 200px;
}
form p {
  flex-basis: 100%;
}
</style>
