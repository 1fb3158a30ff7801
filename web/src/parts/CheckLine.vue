<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { CheckState } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { show } from '@/lib/show'
import { clock, severityWord, term } from '@/lib/words'
import { withUnit } from '@/state/units'
import AnswerKeys from './AnswerKeys.vue'
import CheckExtras from './CheckExtras.vue'
import CheckMark from './CheckMark.vue'
import PutRight from './PutRight.vue'
import SheetField from './SheetField.vue'
import { stateWords } from './stateWords'
import TakeBack from './TakeBack.vue'

/** One check: its mark, its state in words, and, when picked, what to do. */
const props = defineProps<{ c: CheckState; picked: boolean }>()
const emit = defineEmits<{ pick: []; passed: [] }>()
const { locked, evaluation } = useInspection()
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
/** A fail that stands: by an answer, or by a reading that no repair touched. */
const stands = computed(() => props.c.stands ?? (props.c.answer?.what.result === 'fail' ? props.c.answer : undefined))
const said = (result: string) => (result === 'pass' ? $t('seen, good') : term(result))
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
        <s>{{ $t('{result} by {by}', { result: said(s.what.result), by: s.by }) }}</s>
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
      <AnswerKeys v-else :c="c" @passed="emit('passed')" />
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
