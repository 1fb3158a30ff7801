<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import RemoveThis from '@/parts/RemoveThis.vue'
import { plain } from '@/lib/sheet'
import { stored, unitShown, withUnit } from '@/state/units'
import ReadingDock from '@/parts/ReadingDock.vue'
import ReadingField from '@/parts/ReadingField.vue'
import SheetField from '@/parts/SheetField.vue'
import { windowWord, type Line } from './bolts'
import { parseNumber } from '@/lib/number'

/** The bolt in work: its window, what to set the tool to, and its reading. */
const props = defineProps<{ line: Line; others: Line[] }>()
const emit = defineEmits<{ saving: []; saved: [] }>()
const { id, set, locked, view, problem } = useInspection()
const nut = computed(() => props.line.group === 'axle_nuts')
const more = ref(false)
const asking = ref(false)
const reason = useDraft(() => `${id}:no-tool:${props.line.at}`)
const field = useTemplateRef('field')
const dock = useTemplateRef('dock')
/** Chosen by hand, it is about to be read. */
defineExpose({ show: () => dock.value?.show() })
const about = computed(() =>
  [
    props.line.thread,
    props.line.left_hand ? $t('left-hand thread') : '',
    props.line.turn ? $t('turn {turn} of {ring_of}', { turn: props.line.turn, ring_of: props.line.ring_of }) : '',
  ]
    .filter(Boolean)
    .join(' · '),
)
const window = computed(() =>
  props.line.low_nm === null
    ? nut.value
      ? $t('No window known yet.')
      : $t('No window known: enter the one from the paper under “Lock, mark, adapter”.')
    : $t('Window {low_nm} to {high_nm}, {windowWord}', {
        low_nm: withUnit(props.line.low_nm, 'N·m'),
        high_nm: withUnit(props.line.high_nm, 'N·m'),
        windowWord: windowWord[props.line.window] ?? props.line.window,
      }),
)
const bolt = computed(() => {
  const i = /^bolts\.(\d+)$/.exec(props.line.at)?.[1]
  return i === undefined ? null : view.value?.sheet.bolts?.[Number(i)]
})
watch(
  () => props.line.at,
  async () => {
    asking.value = false
    await nextTick()
    field.value?.focus()
  },
)
async function noTool() {
  if (!reason.value.trim()) return
  const why = reason.value.trim()
  reason.value = ''
  asking.value = false
  if (await set(`${props.line.at}.${nut.value ? 'nut_no_tool' : 'no_tool'}`, why)) emit('saved')
  else if (problem.value) {
    reason.value = why
    asking.value = true
  }
}
/** Says of the others of its ring or group how this one is locked and marked. */
async function alike() {
  for (const o of props.others) {
    if (bolt.value?.locking?.value && o.locking !== bolt.value.locking.value)
      await set(`${o.at}.locking`, plain(bolt.value.locking))
    if (bolt.value?.witness?.value && o.witness !== bolt.value.witness.value)
      await set(`${o.at}.witness`, plain(bolt.value.witness))
  }
}
/** What lengthens the tool, as measured; nothing is written down before it is known. */
const adapting = ref(false)
const toolMm = ref('')
const adapterMm = ref('')
const mm = (t: string) => {
  const n = parseNumber(t)
  return n === undefined ? undefined : stored(n, 'mm')
}
const lengths = computed(() => ({ tool_mm: mm(toolMm.value), adapter_mm: mm(adapterMm.value) }))
const known = computed(() => (lengths.value.tool_mm ?? 0) > 0 && lengths.value.adapter_mm !== undefined)
async function adapt() {
  if (known.value && (await set(`${props.line.at}.adapter`, lengths.value))) adapting.value = false
}
</script>

<template>
  <ReadingDock ref="dock" :title="line.place" :about="about" test="bolt">
    <p v-if="line.left_hand" class="caution">{{ $t('Left-hand thread: it tightens the other way round.') }}</p>
    <ReadingField
      ref="field"
      :path="line.path"
      :title="$t('{place}, torque', { place: line.place })"
      :window="window"
      :aim="line.aim_nm"
      @saving="emit('saving')"
      @saved="emit('saved')"
    />
    <p v-if="line.window_note" class="small attend">{{ line.window_note }}</p>
    <p v-if="line.set_nm !== null" class="small">
      <template v-if="line.half_nm !== null"
        >{{ $t('First the whole ring at') }} <b class="num">{{ withUnit(line.half_nm, 'N·m') }}</b>{{
          $t(', then') + ' '
        }}</template
      >
      <template v-else>{{ $t('Set the tool to') + ' ' }}</template>
      <b class="num" data-test="set-to">{{ withUnit(line.set_nm, 'N·m') }}</b>
      <template v-if="bolt?.adapter">
        {{ ' ' + $t('for') }} <b class="num">{{ withUnit(line.aim_nm, 'N·m') }}</b>
        {{ $t('at the bolt, with the adapter') }}</template
      >.
    </p>
    <p v-if="line.backed_off" class="stop">
      {{
        $t(
          'It was over its window. Turning it back does not undo that: slacken it, check bolt and thread, tighten again.',
        )
      }}
    </p>
    <p v-if="line.no_tool" class="attend">
      {{ $t('No tool reaches it: {no_tool}. Watched, with a witness mark.', { no_tool: line.no_tool }) }}
    </p>
    <div v-if="!locked" class="acts">
      <button type="button" class="plain" :aria-expanded="asking" @click="asking = !asking">
        {{ $t('No tool reaches it') }}
      </button>
      <!-- One that was read stays on the list. -->
      <RemoveThis
        v-if="bolt && !line.judged"
        list="bolts"
        :index="Number(line.at.split('.')[1])"
        :what="line.place"
        test="off-list"
        @removed="emit('saved')"
      />
      <button v-if="bolt" type="button" class="plain" :aria-expanded="more" @click="more = !more">
        {{ $t('Lock, mark, adapter') }}
      </button>
    </div>
    <form v-if="asking" class="why" @submit.prevent="noTool">
      <label class="field"
        ><span>{{ $t('What is in the way?') }}</span
        ><input v-model="reason"
      /></label>
      <ActButton type="submit" :disabled="!reason.trim()">{{ $t('Save') }}</ActButton>
    </form>
    <div v-if="more && bolt" class="more">
      <SheetField :path="`${line.at}.locking`" />
      <SheetField :path="`${line.at}.witness`" />
      <ActButton
        v-if="others.length && (bolt.locking?.value || bolt.witness?.value)"
        variant="text"
        :disabled="locked"
        data-test="alike"
        @click="alike"
        >{{ $t('Lock and mark: the other {n} are the same', { n: others.length }) }}</ActButton
      >
      <SheetField :path="`${line.at}.direction`" :title="$t('read while')" />
      <SheetField :path="`${line.at}.slackened`" />
      <SheetField :path="`${line.at}.low_nm`" />
      <SheetField :path="`${line.at}.high_nm`" />
      <ActButton v-if="bolt.adapter" variant="text" :disabled="locked" @click="set(`${line.at}.adapter`, null)">{{
        $t('No adapter on the tool')
      }}</ActButton>
      <ActButton v-else variant="text" :disabled="locked" @click="adapting = !adapting">{{
        $t('Adapter on the tool')
      }}</ActButton>
      <form v-if="adapting && !bolt.adapter" class="more" @submit.prevent="adapt">
        <label class="field">
          <span>{{ $t('tool length, grip to square, {mm}', { mm: unitShown('mm') }) }}</span><input
            v-model="toolMm"
            class="num"
            inputmode="decimal"
          />
        </label>
        <label class="field">
          <span>{{ $t("square to the bolt's centre, {mm}", { mm: unitShown('mm') }) }}</span><input
            v-model="adapterMm"
            class="num"
            inputmode="decimal"
          />
        </label>
        <ActButton type="submit" :disabled="!known">{{ $t('Apply correction') }}</ActButton>
      </form>
      <template v-if="bolt.adapter">
        <SheetField :path="`${line.at}.adapter.tool_mm`" :title="$t('tool length, grip to square')" />
        <SheetField :path="`${line.at}.adapter.adapter_mm`" :title="$t('square to the bolt\'s centre')" />
        <SheetField :path="`${line.at}.adapter.angle_deg`" :title="$t('angle, 90 at a right angle')" />
      </template>
    </div>
  </ReadingDock>
</template>

<style scoped>
.why {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  align-items: end;
}
.more {
  display: grid;
  gap: 8px;
}
</style>
