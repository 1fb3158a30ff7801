<script setup lang="ts">
import { computed, ref } from 'vue'
import type { CheckState } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { needWord, outcomeWord, severityWord, withUnit } from '@/app/words'
import CheckMark from './CheckMark.vue'

/** One check: its mark, its state in words, and, when picked, what to do. */
const props = defineProps<{ c: CheckState; picked: boolean }>()
const emit = defineEmits<{ pick: [] }>()
const { answer, locked, evaluation } = useInspection()
const reason = ref('')
const asking = ref<string | null>(null)
const problem = ref('')

const gateLocked = computed(() => evaluation.value?.gates[props.c.gate - 1]?.locked)
const state = computed(() => {
  const c = props.c
  if (c.outcome === 'open' && c.undone_by) return 'open again after a repair'
  if (c.outcome === 'open' && c.needs.length) return `${c.needs.length} to give`
  const j = c.judged.find((x) => x.result !== 'pass' && x.value !== null) ?? c.judged.find((x) => x.value !== null)
  if (j && c.outcome !== 'open') {
    const limit =
      j.lower !== null
        ? `${withUnit(j.value, j.unit)} of ${withUnit(j.lower, j.unit)} asked`
        : `${withUnit(j.value, j.unit)}, ${withUnit(j.upper, j.unit)} at most`
    return c.outcome === 'doubtful' ? `not sure: ${limit}` : limit
  }
  return outcomeWord(c.outcome, c.kind)
})
const tone = computed(() => ({ fail: 'stop', doubtful: 'attend' })[props.c.outcome] ?? 'soft')

const said = (result: string) => (result === 'pass' ? 'seen, good' : result.replaceAll('_', ' '))
const asks: Record<string, string> = {
  fail: 'What is wrong?',
  not_seen: 'Why could it not be seen?',
  no_tool: 'What is in the way?',
  not_applicable: 'Why does it not apply?',
}
async function give(result: string) {
  problem.value = ''
  if (result !== 'pass' && asking.value !== result) {
    asking.value = result
    return
  }
  if (result !== 'pass' && !reason.value.trim()) {
    problem.value = 'Say it in a few words.'
    return
  }
  if (await answer(props.c.id, result, result === 'pass' ? '' : reason.value.trim())) {
    asking.value = null
    reason.value = ''
  }
}
</script>

<template>
  <li :class="{ picked }" :data-check="c.id">
    <button class="line" :aria-expanded="picked" @click="emit('pick')">
      <CheckMark :c="c" />
      <span class="title">{{ c.title }}</span>
      <span :class="['state', tone]">{{ state }}</span>
    </button>
    <div v-if="picked" class="more">
      <p>{{ c.ask }}</p>
      <p v-if="c.undone_by" class="attend">
        Undone by a repair ({{ c.undone_by.operations.map((o) => o.replaceAll('_', ' ')).join(', ') }}): look or measure
        again.
      </p>
      <p v-for="s in c.struck" :key="s.id" class="small">
        <s>{{ s.what.result }} by {{ s.by }}</s>
      </p>
      <p v-if="c.answer" class="small">
        {{ said(c.answer.what.result) }}, {{ c.answer.by }}{{ c.answer.what.reason ? `: ${c.answer.what.reason}` : '' }}
      </p>
      <ul v-if="c.needs.length || c.doubts.length" class="small wants">
        <li v-for="n in c.needs" :key="n.path + n.why">{{ n.title }}: {{ needWord(n.why) }}</li>
        <li v-for="n in c.doubts" :key="n.path + n.why" class="attend">{{ n.title }}: {{ needWord(n.why) }}</li>
      </ul>
      <p v-if="c.outcome === 'fail'" class="stop">{{ severityWord[c.severity] }}</p>
      <ul v-if="c.kind === 'calc' && c.why.length" class="small wants">
        <li v-for="w in c.why" :key="w">{{ w }}</li>
      </ul>
      <slot />
      <p v-if="gateLocked" class="caution">
        Locked: nothing is powered while a stop stands or can still come up in the gates before.
      </p>
      <div v-else-if="c.kind === 'look' || c.looked || c.undone_by" class="answers">
        <VBtn variant="flat" :disabled="locked" data-test="pass" @click="give('pass')">{{
          c.kind === 'look' || c.looked ? 'Seen, good' : 'Measured again, same'
        }}</VBtn>
        <template v-if="c.kind === 'look' || c.looked">
          <VBtn :disabled="locked" data-test="fail" @click="give('fail')">Fails</VBtn>
          <VBtn variant="text" :disabled="locked" @click="give('not_seen')">Not seen</VBtn>
          <VBtn variant="text" :disabled="locked" @click="give('not_applicable')">Does not apply</VBtn>
        </template>
      </div>
      <form v-if="asking" class="why" @submit.prevent="give(asking)">
        <label class="field"
          ><span>{{ asks[asking] }}</span
          ><input v-model="reason" data-test="reason"
        /></label>
        <VBtn type="submit" data-test="reason-ok">Write it down</VBtn>
        <p v-if="problem" class="stop" role="alert">{{ problem }}</p>
      </form>
    </div>
  </li>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 14px;
  width: 100%;
  min-height: 44px;
  padding: 4px 8px;
  border: 0;
  background: transparent;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.title {
  flex: 1;
}
.state {
  text-align: right;
  font-size: 14.5px;
}
.state.soft {
  color: var(--soft);
}
.state.stop,
.state.attend {
  font-weight: 700;
}
li.picked {
  background: var(--jade-pale);
}
.picked .title {
  font-weight: 700;
}
.picked .state.soft,
.picked .small {
  color: var(--ink);
}
.more {
  padding: 4px 12px 12px 48px;
  display: grid;
  gap: 8px;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
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
.wants {
  margin: 0;
  padding-left: 18px;
}
@media (max-width: 560px) {
  .more {
    padding-left: 12px;
  }
}
</style>
