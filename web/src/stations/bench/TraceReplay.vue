<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { useRafFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { StripBuffer, type Channel } from './strip'
import TraceStrip from './TraceStrip.vue'
import StateNote from '@/parts/StateNote.vue'

/** A stored trace played again as it was recorded, or pulled along by hand. */
const props = defineProps<{ pulls: Schemas['Pulls'] }>()
const PAGE = 20
const at = ref(props.pulls.from_s)
const playing = ref(false)
const pace = ref(1)
const problem = ref('')
const data = new StripBuffer()
const strip = useTemplateRef('strip')
const stepped = computed(() => Boolean(props.pulls.outcome))
const lanes = computed<Channel[]>(() =>
  stepped.value
    ? ['current', 'voltage', 'speed', 'throttle', 'left', 'right']
    : ['current', 'speed', 'throttle', 'left', 'right'],
)
/** The page of the trace that is in the buffer. */
let held = -1
async function load() {
  const page = Math.max(0, Math.floor((at.value - props.pulls.from_s - 1e-6) / PAGE))
  if (page === held) return
  held = page
  const from = props.pulls.from_s + page * PAGE
  try {
    const s = await take(
      api.GET('/api/traces/{sha}/strip', {
        params: { path: { sha: props.pulls.sha256 }, query: { from: from - 9, to: from + PAGE + 1, points: 4000 } },
      }),
    )
    if (held !== page) return
    data.clear()
    data.add(s, 1e9)
    strip.value?.draw()
  } catch (e) {
    held = -1
    playing.value = false
    problem.value = (e as Error).message
  }
}
watch(
  () => props.pulls.sha256,
  () => {
    held = -1
    playing.value = false
    at.value = Math.min(props.pulls.to_s, props.pulls.from_s + 8)
    void load()
  },
  { immediate: true },
)
watch(at, () => {
  void load()
  if (!playing.value) strip.value?.draw()
})
let before = 0
const { pause, resume } = useRafFn(
  ({ timestamp }) => {
    if (before) at.value = Math.min(props.pulls.to_s, at.value + (pace.value * (timestamp - before)) / 1000)
    before = timestamp
    if (at.value >= props.pulls.to_s) playing.value = false
  },
  { immediate: false },
)
watch(playing, (p) => {
  before = 0
  if (!p) return pause()
  if (at.value >= props.pulls.to_s) at.value = props.pulls.from_s
  resume()
})
const clock = computed(() => (at.value - props.pulls.from_s).toFixed(1))
</script>

<template>
  <div data-test="replay">
    <TraceStrip
      ref="strip"
      :data="data"
      :until="() => at"
      :lanes="lanes"
      :events="pulls.analysis.events ?? []"
      :marks="pulls.run?.marks ?? []"
      :moving="playing"
      :label="$t('The trace up to {clock} s', { clock })"
    />
    <div class="along">
      <ActButton data-test="replay-play" @click="playing = !playing">{{
        playing ? $t('Stop') : $t('Play again')
      }}</ActButton>
      <label class="field pace">
        <span class="sr">{{ $t('Pace') }}</span>
        <select v-model.number="pace">
          <option :value="0.1">{{ $t('a tenth') }}</option>
          <option :value="1">{{ $t('as it was') }}</option>
          <option :value="4">{{ $t('four times') }}</option>
        </select>
      </label>
      <label class="field slide">
        <span class="sr">{{ $t('Where in the trace') }}</span>
        <input
          v-model.number="at"
          type="range"
          :min="pulls.from_s"
          :max="pulls.to_s"
          step="0.05"
          data-test="replay-at"
          @input="playing = false"
        />
      </label>
      <span class="num small" data-test="replay-clock">{{ clock }} s</span>
    </div>
    <StateNote :error="problem" />
  </div>
</template>

<style scoped>
.along {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}
.pace {
  width: 130px;
}
.slide {
  flex: 1 1 180px;
}
</style>
