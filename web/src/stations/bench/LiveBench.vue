<script setup lang="ts">
import { useElementSize, useEventListener, useRafFn } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { newId } from '@/app/outbox'
import { dark, who } from '@/app/session'
import { figure } from '@/app/words'
import LeverTable from './LeverTable.vue'
import { advice } from './words'

/**
 * A test on the bench while it runs: levers, current and speed are drawn as they
 * come, each pull marks itself and is judged at once. The test lives in the
 * server; leaving this page does not end it.
 */
type Frame = Schemas['Frame']
const { id, locked } = useInspection()
const props = defineProps<{ barred: boolean }>()
const tests = [
  'left lever, on the throttle',
  'right lever, on the throttle',
  'both levers in turn, on the throttle',
  'both levers at once',
  'throttle held through pull and release',
  'on the pedals alone',
  'cruise',
  'shift sensor',
  'power-on with a lever held',
  'power-on with the throttle held',
]
const test = ref(tests[2]!)
const ready = ref(false)
const problem = ref('')
const frame = shallowRef<Frame | null>(null)
const events = shallowRef<Schemas['CutoffEvent'][]>([])
const running = computed(() => frame.value !== null && frame.value.state !== 'ended')

// What is drawn: the last seconds, in plain lists.
const SPAN = 8
let t: number[] = []
let current: number[] = []
let speed: number[] = []
let left: number[] = []
let right: number[] = []
let newest = 0
let arrived = 0

let source: EventSource | null = null
function listen() {
  source?.close()
  source = new EventSource(`/api/inspections/${encodeURIComponent(id)}/bench/frames`)
  source.addEventListener('frame', (e) => take1(JSON.parse((e as MessageEvent<string>).data) as Frame))
  // A frame without a name of its own.
  source.onmessage = (e) => take1(JSON.parse(e.data as string) as Frame)
}
function take1(f: Frame) {
  if (f.state === 'ended') {
    source?.close()
    source = null
    frame.value = null
    return
  }
  frame.value = f
  if (f.events.length !== events.value.length) events.value = f.events
  for (let i = 0; i < f.t.length; i++) {
    if (t.length && f.t[i]! <= t[t.length - 1]!) continue
    t.push(f.t[i]!)
    current.push(f.current[i]!)
    speed.push(f.speed[i]!)
    left.push(f.left[i]!)
    right.push(f.right[i]!)
  }
  if (f.t.length) {
    newest = t[t.length - 1]!
    arrived = performance.now()
  }
  let drop = 0
  while (drop < t.length && t[drop]! < newest - SPAN - 1) drop++
  if (drop > 200) for (const x of [t, current, speed, left, right]) x.splice(0, drop)
}
listen()
onBeforeUnmount(() => source?.close())

async function start() {
  problem.value = ''
  try {
    await take(
      api.POST('/api/inspections/{id}/bench', { params: { path: { id } }, body: { test: test.value } }).then(ok),
    )
    t = []
    current = []
    speed = []
    left = []
    right = []
    events.value = []
    listen()
  } catch (e) {
    problem.value = (e as ApiError).message
  }
}
async function end(keep: boolean) {
  problem.value = ''
  try {
    await take(
      api
        .POST('/api/inspections/{id}/bench/end', {
          params: { path: { id } },
          body: { id: newId(), by: who.value, keep },
        })
        .then(ok),
    )
    frame.value = null
    ready.value = false
  } catch (e) {
    problem.value = (e as ApiError).message
  }
}
/** An answer without content is an answer. */
const ok = <T extends { data?: unknown; error?: unknown; response: Response }>(r: T) =>
  r.response.ok ? { ...r, data: true } : { ...r, data: undefined }

const canvas = useTemplateRef('canvas')
const box = useTemplateRef('box')
const { width } = useElementSize(box)
const H = 322
watch([width, canvas], () => {
  if (!canvas.value || !width.value) return
  const r = window.devicePixelRatio || 1
  canvas.value.width = width.value * r
  canvas.value.height = H * r
})
let ink: Record<string, string> = {}
function inks() {
  const s = getComputedStyle(document.documentElement)
  ink = Object.fromEntries(
    ['ink', 'soft', 'line', 'jade', 'jade-pale', 'copper', 'plum', 'hide'].map((k) => [
      k,
      s.getPropertyValue(`--${k}`),
    ]),
  )
}
watch(dark, inks, { immediate: true, flush: 'post' })

const lanes = [
  { name: 'current, A', top: 8, h: 150, get: () => current, ink: 'ink', least: 10 },
  { name: 'speed, km/h', top: 170, h: 62, get: () => speed, ink: 'copper', least: 30 },
  { name: 'left lever', top: 244, h: 20, get: () => left, ink: 'jade', least: 1 },
  { name: 'right lever', top: 272, h: 20, get: () => right, ink: 'jade', least: 1 },
]
function draw() {
  const c = canvas.value?.getContext('2d')
  if (!c || !canvas.value) return
  const r = window.devicePixelRatio || 1
  const w = canvas.value.width / r
  c.setTransform(r, 0, 0, r, 0, 0)
  c.clearRect(0, 0, w, H)
  // Between frames the paper runs on by the clock, so that it does not jerk.
  const now = newest + (frame.value?.state === 'running' ? Math.min(0.1, (performance.now() - arrived) / 1000) : 0)
  const from = now - SPAN
  const X = (s: number) => 84 + ((s - from) / SPAN) * (w - 96)
  c.font = '12.5px Words, sans-serif'
  c.fillStyle = ink.soft!
  c.strokeStyle = ink.line!
  c.lineWidth = 1
  for (let s = Math.ceil(from); s <= now; s++) {
    c.beginPath()
    c.moveTo(X(s), 4)
    c.lineTo(X(s), H - 20)
    c.stroke()
    c.textAlign = 'center'
    if (X(s) < w - 30) c.fillText(`${(s - now).toFixed(0)} s`, X(s), H - 5)
  }
  // Pulls that were judged, from edge to cut.
  for (const e of events.value) {
    if (e.t_edge_s < from) continue
    c.fillStyle = e.late ? ink.plum! : e.result === 'cut' ? ink['jade-pale']! : ink.line!
    const until = e.latency_ms !== null ? e.t_edge_s + e.latency_ms / 1000 : e.t_release_s
    c.fillRect(X(e.t_edge_s), 8, Math.max(3, X(until) - X(e.t_edge_s)), 150)
  }
  for (const l of lanes) {
    const y = l.get()
    let top = l.least
    for (const v of y) top = Math.max(top, v)
    const Y = (v: number) => l.top + l.h - (Math.max(0, v) / top) * l.h
    c.fillStyle = ink.soft!
    c.textAlign = 'right'
    c.fillText(l.name, 76, l.top + Math.min(l.h, 22) - 6)
    if (l.h > 40) c.fillText(figure(top, 2), 76, l.top + 28)
    c.strokeStyle = ink[l.ink]!
    c.lineWidth = l.h > 40 ? 1.8 : 3
    c.beginPath()
    let pen = false
    for (let i = 0; i < t.length; i++) {
      if (t[i]! < from) continue
      const x = X(t[i]!)
      // A hole in the recording is a hole on the paper.
      if (pen && t[i]! - t[i - 1]! < 0.15) c.lineTo(x, Y(y[i]!))
      else c.moveTo(x, Y(y[i]!))
      pen = true
    }
    c.stroke()
  }
  c.fillStyle = ink.ink!
  c.textAlign = 'left'
  for (const e of events.value) {
    if (e.t_edge_s < from) continue
    c.fillText(
      e.latency_ms !== null ? `${e.latency_ms.toFixed(0)} ms` : (advice[e.result] ?? e.result).split(':')[0]!,
      X(e.t_edge_s) + 4,
      20,
    )
  }
}
// Nothing moves while nothing runs.
const { pause, resume } = useRafFn(draw, { immediate: false })
watch(running, (r) => (r ? resume() : pause()), { immediate: true })
useEventListener(document, 'visibilitychange', () => {
  if (!document.hidden && !source && running.value) listen()
})
const last = computed(() => events.value.at(-1))
const state = computed(() => {
  const f = frame.value
  if (!f) return ''
  if (f.state === 'waiting') return 'Armed. Nothing is heard of the current yet.'
  if (f.state === 'silent') return `Silent: ${f.note}.`
  return ''
})
</script>

<template>
  <section class="panel" data-test="live">
    <header>
      <h2>{{ running ? 'On the bench' : 'A test on the bench' }}</h2>
      <span v-if="running" class="small num" role="status" data-test="live-state">
        {{ frame?.samples }} readings{{ frame?.bad ? `, ${frame.bad} not usable` : ''
        }}{{ frame?.late ? `, ${frame.late} late` : '' }}
      </span>
    </header>
    <template v-if="!running">
      <p class="caution">
        Wheel up: stand rated, vehicle strapped, hands, hair and laces clear of spokes and chain; power only with the
        packs' plug in reach. Never reach for a spinning wheel. A motor that wants a rolling start is spun by hand
        first.
      </p>
      <form class="arm" @submit.prevent="start">
        <label class="field">
          <span>Test</span>
          <select v-model="test" :disabled="locked || props.barred">
            <option v-for="x in tests" :key="x" :value="x">{{ x }}</option>
          </select>
        </label>
        <label class="tick">
          <input v-model="ready" type="checkbox" data-test="live-ready" :disabled="locked || props.barred" />
          Strapped, clear, plug in reach
        </label>
        <VBtn type="submit" variant="flat" :disabled="!ready || locked || props.barred" data-test="live-start"
          >Arm</VBtn
        >
      </form>
    </template>
    <template v-else>
      <p v-if="state" class="caution" role="status" data-test="live-silent">{{ state }}</p>
      <div ref="box" class="paper">
        <canvas
          ref="canvas"
          :style="{ height: `${H}px` }"
          role="img"
          :aria-label="`Current ${figure(frame?.now?.current_a)} ampere, speed ${figure(frame?.now?.speed_kmh)} kilometres an hour`"
        />
      </div>
      <p v-if="last" role="status" data-test="live-last">
        <b>{{ last.lever }}</b>:
        <span :class="{ stop: last.late }">{{
          last.relit ? 'came back while held' : (advice[last.result] ?? last.result)
        }}</span><template v-if="last.latency_ms !== null"
          >, <b class="num">{{ last.latency_ms.toFixed(0) }} ms</b></template
        ><template v-if="last.lead_mm !== null">, lead {{ figure(last.lead_mm, 2) }} mm over the bite</template>
      </p>
      <LeverTable v-if="frame" :levers="frame.levers" data-test="live-levers" />
      <div class="arm">
        <VBtn variant="flat" data-test="live-keep" @click="end(true)">End, and put it on record</VBtn>
        <VBtn data-test="live-drop" @click="end(false)">End without keeping</VBtn>
      </div>
    </template>
    <p v-if="problem" class="stop" role="alert" data-test="live-problem">{{ problem }}</p>
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
  align-items: end;
}
.arm .field {
  flex: 1 1 240px;
}
.tick {
  min-height: 44px;
  display: flex;
  gap: 9px;
  align-items: center;
}
.tick input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
canvas {
  width: 100%;
  display: block;
}
</style>
