<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { CheckState } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { usePhotos } from '@/state/photos'
import { show } from '@/lib/show'
import { clock, severityWord, term } from '@/lib/words'
import { withUnit } from '@/state/units'
import CheckExtras from './CheckExtras.vue'
import CheckMark from './CheckMark.vue'
import PutRight from './PutRight.vue'
import SheetField from './SheetField.vue'
import { stateWords } from './stateWords'
import TakeBack from './TakeBack.vue'
import StateNote from './StateNote.vue'

/** One check: its mark, its state in words, and, when picked, what to do. */
const props = defineProps<{ c: CheckState; picked: boolean }>()
const emit = defineEmits<{ pick: []; passed: [] }>()
const { id, answer, locked, evaluation, problem: refused } = useInspection()
const reason = useDraft(() => `${id}:reason:${props.c.id}`)
const asking = ref<string | null>(null)
const problem = ref('')
/** Who comes by the address of a check has it before them, and in hand. */
const route = useRoute()
const line = useTemplateRef('line')
const asked = () => {
  if (route.query.check === props.c.id) show(line.value)
}
onMounted(() => void nextTick(asked))
watch(
  () => route.query.check,
  () => void nextTick(asked),
)

const gateLocked = computed(() => evaluation.value?.gates[props.c.gate - 1]?.locked)
const state = computed(() => stateWords(props.c))
/** What it has come to, said to whoever does not see it turn. */
const heard = ref('')
watch(
  () => props.c.outcome,
  () => {
    if (props.picked) heard.value = `${props.c.title}: ${state.value}`
  },
)
const tone = computed(() => ({ fail: 'stop', doubtful: 'attend' })[props.c.outcome] ?? 'soft')

/** What was measured of a look; of the rest what fails and has no figure to be drawn by. */
const told = computed(() =>
  props.c.judged.filter((j) => props.c.kind === 'look' || (j.result === 'fail' && j.value === null)),
)
const look = computed(() => props.c.kind === 'look' || props.c.looked)
const torque = computed(() => props.c.station === 'ledger')
/** A fail that stands: by an answer, or by a reading that no repair touched. */
const stands = computed(() => props.c.stands ?? (props.c.answer?.what.result === 'fail' ? props.c.answer : undefined))
const said = (result: string) => (result === 'pass' ? $t('seen, good') : term(result))
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
  <li :class="{ picked }" :data-check="c.id">
    <button ref="line" class="line" :aria-expanded="picked" @click="emit('pick')">
      <CheckMark :c="c" />
      <span class="title">{{ c.title }}</span>
      <span :class="['state', tone]">{{ state }}</span>
    </button>
    <span class="sr" role="status">{{ heard }}</span>
    <div v-if="picked" class="more">
      <p>{{ c.ask }}</p>
      <p v-if="c.pending" class="stop">{{ $t('To be measured again: {words}', { words: c.pending.words }) }}</p>
      <p v-else-if="c.undone_by" class="attend">
        {{
          $t('Undone by a repair ({undone_by}): look or measure again.', {
            undone_by: c.undone_by.operations.map(term).join(', '),
          })
        }}
      </p>
      <p v-for="s in c.struck" :key="s.id" class="small">
        <s>{{ $t('{result} by {by}', { result: s.what.result, by: s.by }) }}</s>
      </p>
      <p v-if="c.answer" class="small">
        {{
          $t('{result}, {by} at {at}{answer}', {
            result: said(c.answer.what.result),
            by: c.answer.by,
            at: clock(c.answer.at),
            answer: c.answer.what.reason ? `: ${c.answer.what.reason}` : '',
          })
        }}
        <TakeBack v-if="!locked" :entry="c.answer.id" :what="$t('that answer')" />
      </p>
      <ul v-if="c.needs.length || c.doubts.length" class="small wants">
        <li v-for="n in c.needs" :key="n.title + n.words">{{ n.title }}: {{ n.words }}</li>
        <li v-for="n in c.doubts" :key="n.title + n.words" class="attend">{{ n.title }}: {{ n.words }}</li>
      </ul>
      <p v-if="c.outcome === 'fail'" class="stop">{{ severityWord[c.severity] }}</p>
      <p v-if="stands && stands !== c.answer" class="stop">
        {{
          $t('It failed: {by}, {at}: {reason}. That stands until it is put right.', {
            by: stands.by,
            at: clock(stands.at),
            reason: stands.what.reason,
          })
        }}
      </p>
      <ul v-if="c.why.length" class="small wants">
        <li v-for="w in c.why" :key="w">{{ w }}</li>
      </ul>
      <ul v-if="told.length" class="small wants" data-test="measured">
        <li v-for="j in told" :key="j.output" :class="{ stop: j.result === 'fail' }">
          {{ j.result === 'fail' && j.wrong ? j.wrong : j.words
          }}<template v-if="j.value !== null">: {{ withUnit(j.value, j.unit) }}</template
          ><template v-if="c.kind === 'look' && j.severity !== 'note'"
            >, {{ j.result === 'fail' ? $t('fails') : $t('holds') }}</template
          >
        </li>
      </ul>
      <div v-if="c.fields.length" class="fields own">
        <SheetField v-for="p in c.fields" :key="p" :path="p" />
      </div>
      <slot />
      <p v-if="gateLocked" class="caution">
        {{
          $t('Locked until earlier gates are cleared: nothing is powered while a stop stands or may still be found.')
        }}
      </p>
      <div v-else class="answers">
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
      <PutRight v-if="!locked && (stands || c.pending || c.outcome === 'fail')" :check="c.id" :ends="c.ends" />
      <CheckExtras :check="c.id" />
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
  padding: 10px 12px 12px 48px;
  display: grid;
  gap: 8px;
}
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
.own {
  background: var(--panel);
  padding: 8px 10px;
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
