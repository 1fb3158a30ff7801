<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import * as stream from '@/state/stream'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { newId } from '@/state/outbox'
import { withUnit } from '@/state/units'
import { figure, term } from '@/lib/words'
import LeadStrip from './LeadStrip.vue'
import LeverTable from './LeverTable.vue'
import OutcomeTable from './OutcomeTable.vue'
import PullStack from './PullStack.vue'
import StepList from './StepList.vue'
import { StripBuffer, type Channel } from './strip'
import TraceStrip from './TraceStrip.vue'
import { advice, clampOn } from './words'
import StateNote from '@/parts/StateNote.vue'
import ChooseTest from './ChooseTest.vue'

/**
 * A test on the bench while it runs: the channels are drawn as they come, each
 * pull marks itself and is judged at once, each step ticks itself or is tapped.
 * The test lives in the server; leaving this page does not end it.
 */
type Frame = Schemas['Frame']
const { id, locked, view } = useInspection()
defineProps<{ barred: boolean }>()
const { data: tests } = useQuery({
  queryKey: computed(() => ['bench-tests', id, view.value?.sheet.drives, view.value?.sheet.packs?.length]),
  queryFn: () => take(api.GET('/api/inspections/{id}/bench/tests', { params: { path: { id } } })),
  placeholderData: (old) => old,
})
const chosen = ref('levers')
watch(tests, (t) => {
  if (t?.length && !t.some((x) => x.id === chosen.value)) chosen.value = t[0]!.id
})
const test = computed(() => tests.value?.find((t) => t.id === (frame.value?.run.test ?? chosen.value)))
const motors = computed(() => (view.value?.sheet.drives ?? []).map((d) => d.kind))
const motor = ref('')
const problem = ref('')
const frame = shallowRef<Frame | null>(null)
const events = shallowRef<Schemas['Event'][]>([])
const running = computed(() => frame.value !== null && frame.value.state !== 'ended')
const lanes = computed<Channel[]>(() =>
  test.value?.pulls
    ? ['current', 'speed', 'left', 'right']
    : ['current', 'voltage', 'speed', 'throttle', 'left', 'right'],
)

const data = new StripBuffer()
let arrived = 0
let worded = 0
let arrivedState = ''
/** The recording's clock when it began, as far as this page has seen it. */
const started = ref(0)
/** Between frames the paper runs on by the clock, so that it does not jerk. */
const until = () => data.newest + (arrivedState === 'running' ? Math.min(0.1, (performance.now() - arrived) / 1000) : 0)

let ear: ReturnType<typeof stream.listen> | null = null
function listen() {
  ear?.stop()
  ear = stream.listen({ of: 'bench', id }, (kind, f) => kind === 'frame' && hear(f as Frame))
}
function hear(f: Frame) {
  if (f.state === 'ended') {
    ear?.stop()
    ear = null
    frame.value = null
    return
  }
  if (!frame.value) started.value = f.now?.t_s ?? 0
  // The curves are drawn from every frame; the words need not change as often.
  const old = frame.value
  const stale = performance.now() - worded > 200 || !old || old.state !== f.state || old.note !== f.note
  const fresh = (f.events ?? []).filter(
    (e) => !events.value.some((x) => x.lever === e.lever && x.t_edge_s === e.t_edge_s),
  )
  if (fresh.length) events.value = [...events.value, ...fresh]
  if (stale || fresh.length) {
    frame.value = f
    worded = performance.now()
  }
  arrivedState = f.state
  if (f.t?.length) {
    data.add(f, 9)
    arrived = performance.now()
  }
}
listen()
onBeforeUnmount(() => ear?.stop())
useEventListener(document, 'visibilitychange', () => {
  if (!document.hidden && !ear && running.value) listen()
})

/** An answer without content is an answer. */
const ok = <T extends { data?: unknown; error?: unknown; response: Response }>(r: T) =>
  r.response.ok ? { ...r, data: true } : { ...r, data: undefined }
async function attempt(what: () => Promise<unknown>) {
  problem.value = ''
  try {
    await what()
    return true
  } catch (e) {
    problem.value = (e as ApiError).message
    return false
  }
}
const path = { params: { path: { id } } }
async function start() {
  const body = { test: chosen.value, ...(motor.value ? { motor: motor.value } : {}) }
  if (!(await attempt(() => take(api.POST('/api/inspections/{id}/bench', { ...path, body }).then(ok))))) return
  data.clear()
  events.value = []
  listen()
}
const tap = (step: string, value: number | null) =>
  attempt(() => take(api.POST('/api/inspections/{id}/bench/mark', { ...path, body: { step, value } }).then(ok)))
async function end(keep: boolean) {
  const body = { id: newId(), keep }
  if (!(await attempt(() => take(api.POST('/api/inspections/{id}/bench/end', { ...path, body }).then(ok))))) return
  frame.value = null
}

/** The pulls laid over one another: asked for anew after each. */
const { data: laid } = useQuery({
  queryKey: computed(() => ['bench-pulls', id, events.value.length]),
  queryFn: () => take(api.GET('/api/inspections/{id}/bench/pulls', path)),
  enabled: computed(() => running.value && byPulls.value && events.value.length > 0),
  placeholderData: (old) => old,
})
const byPulls = computed(() => Boolean(test.value?.pulls && !test.value.steps?.length))
/** A step waits to be tapped: that is the next thing to do, not the end. */
const tapping = computed(() => frame.value?.outcome?.steps?.some((s) => s.tap && (!s.done || s.again)) ?? false)
const pull = ref<number | null>(null)
const last = computed(() => (test.value?.pulls ? events.value.at(-1) : undefined))
const state = computed(() => {
  const f = frame.value
  if (!f) return ''
  if (f.state === 'waiting') return $t('Armed. No current reading yet.')
  if (f.state === 'silent') return $t('Silent: {note}.', { note: f.note })
  if (f.note)
    return $t('{first}{rest}. What depends on it cannot be judged.', {
      first: f.note[0]!.toUpperCase(),
      rest: term(f.note.slice(1)),
    })
  return ''
})
</script>

<template>
  <section class="panel" data-test="live">
    <header>
      <h2>{{ running && test ? test.title : $t('A test on the bench') }}</h2>
      <span v-if="running" class="small num" role="status" data-test="live-state">
        {{
          $t('{samples} readings{gaps}{late}{lost}', {
            samples: frame?.samples,
            gaps: frame?.bad ? $t(', {bad} not usable', { bad: frame.bad }) : '',
            late: frame?.late ? $t(', {late} late', { late: frame.late }) : '',
            lost: frame?.run.motor ? `, ${clampOn(frame.run.motor)}` : '',
          })
        }}
      </span>
    </header>
    <ChooseTest
      v-if="!running"
      v-model:chosen="chosen"
      v-model:motor="motor"
      :tests="tests ?? []"
      :motors="motors"
      :barred="locked || barred"
      @start="start"
    />
    <template v-else>
      <p v-if="state" class="caution" role="status" data-test="live-silent">{{ state }}</p>
      <TraceStrip
        :data="data"
        :until="until"
        :lanes="lanes"
        :events="test?.pulls ? events : []"
        :marks="frame?.run.marks ?? []"
        :moving="running"
        :label="
          $t('Current {current_a} ampere, speed {speed_kmh}', {
            current_a: figure(frame?.now?.current_a),
            speed_kmh: withUnit(frame?.now?.speed_kmh, 'km/h'),
          })
        "
      />
      <p v-if="last" role="status" data-test="live-last">
        <b>{{ last.lever }}</b>:
        <span :class="{ stop: last.late }">{{
          last.relit ? $t('came back while held') : (advice[last.result] ?? last.result)
        }}</span><template v-if="last.latency_ms !== null"
          >, <b class="num">{{ last.latency_ms.toFixed(0) }} ms</b></template
        ><template v-if="last.lead_mm !== null">{{
          $t(', lead {lead_mm} before the bite', { lead_mm: withUnit(last.lead_mm, 'mm', 2) })
        }}</template>
      </p>
      <div class="arm">
        <ActButton :variant="tapping ? undefined : 'flat'" data-test="live-keep" @click="end(true)">{{
          $t('End and save')
        }}</ActButton>
        <ActButton data-test="live-drop" @click="end(false)">{{ $t('End and discard') }}</ActButton>
      </div>
      <StepList
        v-if="frame?.outcome?.steps?.length"
        :steps="frame.outcome.steps"
        running
        :since="(frame.now?.t_s ?? 0) - (frame.run.marks?.at(-1)?.t_s ?? started)"
        @tap="tap"
      />
      <p v-for="n in frame?.outcome?.notes" :key="n" class="caution" role="status" data-test="live-note">{{ n }}</p>
      <OutcomeTable v-if="frame?.outcome" :outcome="frame.outcome" />
      <LeverTable v-if="frame && byPulls" :levers="frame.levers" data-test="live-levers" />
      <PullStack v-if="byPulls && events.length && laid" :pulls="laid" :picked="pull" @pick="pull = $event" />
      <LeadStrip v-if="byPulls && events.length && laid" :analysis="laid.analysis" :asked="laid.lead_mm" />
    </template>
    <StateNote :error="problem" data-test="live-problem" />
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
.arm {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 18px;
  align-items: center;
}
</style>
