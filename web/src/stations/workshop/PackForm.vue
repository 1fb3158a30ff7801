<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { computed, provide, ref, toRef } from 'vue'
import type { Field } from '@/api/client'
import { calcOf, useCalculations } from '@/state/workshop'
import ActButton from '@/parts/ActButton.vue'
import PackValue from './PackValue.vue'
import {
  answer,
  answerOf,
  answers,
  asked,
  head,
  packKey,
  questionWay,
  rest,
  usePackText,
  type Answer,
} from './packText'

/**
 * A rule pack as a form. It writes into the same text that is shown as text, so that the two never differ; each
 * requirement of a class has exactly one answer.
 */
const text = defineModel<string>({ required: true })
const props = defineProps<{ wrong: Record<string, string> }>()
const pack = usePackText(text)
const calcs = useCalculations()
const fields = computed(() => calcOf(calcs.value, 'legal_class')?.inputs.find((f) => f.name === 'packs')?.fields ?? [])
const general = computed(() => fields.value.filter((f) => !['format', 'own', 'reviewed', 'classes'].includes(f.name)))
const ofClass = computed(() => fields.value.find((f) => f.name === 'classes')?.fields ?? [])
const classes = computed(() => {
  const c = pack.get(['classes'])
  return Array.isArray(c) ? (c as { id?: string; name?: string }[]) : []
})
const at = ref(0)
const way = computed(() => ['classes', at.value])
const now = computed(() =>
  Object.fromEntries(asked(ofClass.value).map((f) => [f.name, answerOf(pack, way.value, f.name)])),
)
const unanswered = computed(() => Object.values(now.value).filter((a) => a === '').length)
provide(packKey, { pack, wrong: toRef(props, 'wrong') })
function addClass() {
  pack.put([['classes', classes.value.length], { id: `class_${classes.value.length + 1}`, name: $t('New class') }])
  at.value = classes.value.length - 1
}
function removeClass() {
  pack.put([way.value, undefined])
  at.value = Math.max(0, at.value - 1)
}
/** How a power is read is said only where the law does not say its basis. */
const shown = (f: Field) =>
  (f.fields ?? []).filter((g) => g.name !== 'read_as' || pack.get([...way.value, f.name, 'basis']) === 'unstated')
const title = (f: { name: string; doc?: string }) => term(f.name)
</script>

<template>
  <p v-if="pack.unreadable.value" class="stop" role="alert" data-test="pack-unreadable">
    {{
      $t('The text cannot be shown as a form: {unreadable}. Correct it as text.', { unreadable: pack.unreadable.value })
    }}
  </p>
  <div v-else class="form" data-test="pack-form">
    <div class="fields">
      <PackValue v-for="f in general" :key="f.name" :f="f" :way="[f.name]" />
    </div>
    <div class="classes" role="group" :aria-label="$t('Classes')">
      <button
        v-for="(c, i) in classes"
        :key="i"
        type="button"
        class="tab"
        :aria-pressed="at === i"
        :data-pack-class="c?.id"
        @click="at = i"
      >
        {{ c?.name || c?.id || $t('class {n}', { n: i + 1 }) }}
      </button>
      <ActButton data-test="pack-class-add" @click="addClass">{{ $t('Add a class') }}</ActButton>
    </div>
    <template v-if="classes[at]">
      <div class="fields">
        <PackValue v-for="f in head(ofClass)" :key="f.name" :f="f" :way="[...way, f.name]" />
      </div>
      <p v-if="unanswered" class="attend small">
        {{
          unanswered === 1
            ? $t(
                '1 requirement has no answer yet. What the law was not read for is “not certain”, never “asks nothing”.',
              )
            : $t(
                '{n} requirements have no answer yet. What the law was not read for is “not certain”, never “asks nothing”.',
                { n: unanswered },
              )
        }}
      </p>
      <div v-for="f in asked(ofClass)" :key="f.name" class="asked" :data-pack-asked="f.name">
        <label class="field">
          <span
            >{{ title(f) }}<template v-if="f.doc">: {{ f.doc }}</template></span
          >
          <select
            :value="now[f.name]"
            :data-pack-answer="f.name"
            @change="answer(pack, way, f, ($event.target as HTMLSelectElement).value as Answer)"
          >
            <option value="" disabled>{{ $t('not answered') }}</option>
            <option v-for="(words, a) in answers" :key="a" :value="a">{{ words }}</option>
          </select>
        </label>
        <div v-if="now[f.name] === 'asks' && f.kind === 'object'" class="fields">
          <PackValue v-for="g in shown(f)" :key="g.name" :f="g" :way="[...way, f.name, g.name]" />
        </div>
        <PackValue v-else-if="now[f.name] === 'asks' && f.kind === 'string'" :f="f" :way="[...way, f.name]" />
        <PackValue
          v-else-if="now[f.name] === 'unsure'"
          :f="{ name: 'question', kind: 'string', required: true }"
          :way="questionWay(pack, way, f.name)"
        />
        <p v-if="wrong[[...way, f.name].join('.')]" class="small stop">{{ wrong[[...way, f.name].join('.')] }}</p>
      </div>
      <div class="fields">
        <PackValue v-for="f in rest(ofClass)" :key="f.name" :f="f" :way="[...way, f.name]" />
      </div>
      <ActButton v-if="classes.length > 1" variant="text" @click="removeClass">{{ $t('Remove this class') }}</ActButton>
    </template>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.classes {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  border-bottom: 2px solid var(--ink);
}
.tab {
  min-height: 44px;
  border: 0;
  background: transparent;
  color: var(--soft);
  font: inherit;
  cursor: pointer;
}
.tab[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: underline;
  text-underline-offset: 6px;
}
.asked {
  display: grid;
  grid-template-columns: minmax(200px, 2fr) minmax(0, 5fr);
  gap: 4px 16px;
  align-items: start;
  border-bottom: 1px solid var(--line);
  padding-bottom: 8px;
}
.asked > .small {
  grid-column: 1 / -1;
}
@media (max-width: 700px) {
  .asked {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
