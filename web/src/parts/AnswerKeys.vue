<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref, watch } from 'vue'
import type { CheckState } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { usePhotos } from '@/state/photos'
import StateNote from './StateNote.vue'

/** What can be answered to a check, and the words that an answer asks for. */
const props = defineProps<{ c: CheckState }>()
const emit = defineEmits<{ passed: [] }>()
const { id, answer, locked, problem: refused } = useInspection()
const reason = useDraft(() => `${id}:reason:${props.c.id}`)
const asking = ref<string | null>(null)
const problem = ref('')
const look = computed(() => props.c.kind === 'look' || props.c.looked)
const torque = computed(() => props.c.station === 'ledger')
const asks: Record<string, string> = {
  fail: $t('What is wrong?'),
  not_seen: $t('Why could it not be seen?'),
  no_tool: $t('What is in the way?'),
  not_applicable: $t('Why does it not apply?'),
}
/** What was seen and is good is done; on anything else one stays here. */
const good = ref(false)
watch([good, () => props.c.outcome], ([said, outcome]) => {
  if (!said || outcome !== 'pass') return
  good.value = false
  emit('passed')
})
/** Where a photo is asked, the photo that is taken says it: one touch for both. */
const { add, busy, problem: noPhoto } = usePhotos()
const shoot = computed(() => look.value && !props.c.by_bench && props.c.ask_photo)
async function shot(e: Event) {
  const input = e.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  if (!files.length) return
  await add(files, { check: props.c.id, view: 'detail' })
  if (!noPhoto.value) await give('pass')
}
async function give(result: string) {
  problem.value = ''
  if (result !== 'pass' && asking.value !== result) {
    asking.value = result
    return
  }
  if (result !== 'pass' && !reason.value.trim()) {
    problem.value = $t('Say it in a few words.')
    return
  }
  const why = result === 'pass' ? '' : reason.value.trim()
  asking.value = null
  reason.value = ''
  const wasAsking = result !== 'pass' ? result : null
  const stored = await answer(props.c.id, result, why)
  if (!stored && refused.value) {
    asking.value = wasAsking
    reason.value = why
  }
  good.value = stored && result === 'pass'
}
</script>

<template>
  <div class="answers">
    <label v-if="shoot" class="file key">
      <input
        type="file"
        accept="image/*"
        capture="environment"
        :disabled="locked"
        :aria-label="$t('Photo, seen good: {title}', { title: c.title })"
        data-test="photo-pass"
        @change="shot"
      />
      <span>{{ busy ? $t('Storing…') : $t('Photo: seen, good') }}</span>
    </label>
    <ActButton
      v-else-if="look && !c.by_bench"
      variant="flat"
      :disabled="locked"
      data-test="pass"
      @click="give('pass')"
      >{{ $t('Seen, good') }}</ActButton
    >
    <ActButton :disabled="locked" data-test="fail" @click="give('fail')">{{ $t('Fails') }}</ActButton>
    <ActButton
      v-if="look || torque || c.outcome === 'open'"
      variant="text"
      :disabled="locked"
      data-test="not-seen"
      @click="give('not_seen')"
      >{{ $t('Not seen') }}</ActButton
    >
    <ActButton v-if="c.no_reach" variant="text" :disabled="locked" @click="give('no_tool')">{{
      $t('No tool reaches it')
    }}</ActButton>
    <ActButton
      v-if="c.may_lack"
      variant="text"
      :disabled="locked"
      data-test="not-here"
      @click="give('not_applicable')"
      >{{ $t('Does not apply') }}</ActButton
    >
  </div>
  <StateNote :error="noPhoto" />
  <form v-if="asking" class="why" @submit.prevent="give(asking)">
    <label class="field"
      ><span>{{ asks[asking] }}</span
      ><input v-model="reason" data-test="reason"
    /></label>
    <ActButton type="submit" data-test="reason-ok">{{ $t('Save') }}</ActButton>
    <StateNote :error="problem" />
  </form>
</template>

<style scoped>
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.key > span {
  min-height: 46px;
  padding: 0 16px;
  border-radius: 3px;
  background: var(--button);
  color: var(--button-ink);
  font-weight: 700;
  text-decoration: none;
}
.why {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  align-items: end;
}
.why p {
  grid-column: 1 / -1;
}
</style>
