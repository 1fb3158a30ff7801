<script setup lang="ts">
import { $t } from '@/lib/say'
import { useElementSize, useRafFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { dark } from '@/state/session'
import { withUnit } from '@/state/units'
import { figure } from '@/lib/words'
import type { Channel, StripBuffer } from './strip'
import { advice } from './words'

/**
 * The last seconds of a recording as curves over one another in time: current,
 * speed and whatever else the test is about, with the pulls that were judged and
 * the steps that were ticked.
 */
const props = defineProps<{
  data: StripBuffer
  /** Time at the right edge; asked for at each drawing. */
  until: () => number
  lanes: Channel[]
  events: Schemas['Event'][]
  marks?: Schemas['Mark'][]
  moving: boolean
  label: string
}>()
const SPAN = 8
const drawn: Record<Channel, { name: string; h: number; ink: string; least: number }> = {
  current: { name: $t('current, A'), h: 112, ink: 'ink', least: 10 },
  voltage: { name: $t('voltage, V'), h: 42, ink: 'soft', least: 40 },
  speed: { name: $t('speed'), h: 56, ink: 'copper', least: 30 },
  throttle: { name: $t('throttle'), h: 26, ink: 'copper', least: 1 },
  left: { name: $t('left lever'), h: 18, ink: 'jade', least: 1 },
  right: { name: $t('right lever'), h: 18, ink: 'jade', least: 1 },
}
const rows = computed(() => {
  let top = 8
  return props.lanes.map((c) => {
    const r = { c, top, ...drawn[c] }
    top += r.h + 12
    return r
  })
})
const H = computed(() => rows.value.reduce((h, r) => h + r.h + 12, 30))
const canvas = useTemplateRef('canvas')
const box = useTemplateRef('box')
const { width } = useElementSize(box)
const ink = ref<Record<string, string>>({})
watch(
  dark,
  () => {
    const s = getComputedStyle(document.documentElement)
    ink.value = Object.fromEntries(
      ['ink', 'soft', 'line', 'jade', 'jade-pale', 'copper', 'plum', 'panel'].map((k) => [
        k,
        s.getPropertyValue(`--${k}`),
      ]),
    )
  },
  { immediate: true, flush: 'post' },
)

function draw() {
  const c = canvas.value?.getContext('2d')
  if (!c || !canvas.value) return
  const k = ink.value
  const r = window.devicePixelRatio || 1
  const w = canvas.value.width / r
  const h = H.value
  c.setTransform(r, 0, 0, r, 0, 0)
  c.clearRect(0, 0, w, h)
  const now = props.until()
  const from = now - SPAN
  const X = (s: number) => 88 + ((s - from) / SPAN) * (w - 100)
  c.font = '12.5px Words, sans-serif'
  c.fillStyle = k.soft!
  c.strokeStyle = k.line!
  c.lineWidth = 1
  c.textAlign = 'center'
  for (let s = Math.ceil(from); s <= now; s++) {
    c.beginPath()
    c.moveTo(X(s), 4)
    c.lineTo(X(s), h - 20)
    c.stroke()
    if (now - s >= 0.5) c.fillText(`${(s - now).toFixed(0)} s`, X(s), h - 5)
  }
  const first = rows.value[0]
  // Pulls that were judged, from edge to cut.
  for (const e of props.events) {
    if (e.t_edge_s < from || e.t_edge_s > now || !first) continue
    c.fillStyle = e.late ? k.plum! : e.result === 'cut' ? k['jade-pale']! : k.line!
    const end = Math.min(now, e.latency_ms !== null ? e.t_edge_s + e.latency_ms / 1000 : e.t_release_s)
    c.fillRect(X(e.t_edge_s), first.top, Math.max(3, X(end) - X(e.t_edge_s)), first.h)
  }
  const t = props.data.t
  c.save()
  c.beginPath()
  c.rect(86, 0, w - 86, h)
  c.clip()
  for (const l of rows.value) {
    const y = props.data.of[l.c]
    let top = l.least
    for (const v of y) if (v > top) top = v
    const Y = (v: number) => l.top + l.h - (Math.max(0, v) / top) * l.h
    c.strokeStyle = k[l.ink]!
    c.lineWidth = l.h > 40 ? 1.8 : 3
    c.beginPath()
    let pen = false
    for (let i = 0; i < t.length; i++) {
      if (t[i]! < from || t[i]! > now) continue
      const x = X(t[i]!)
      // A hole in the recording is a hole on the paper.
      if (pen && t[i]! - t[i - 1]! < 0.15) c.lineTo(x, Y(y[i]!))
      else c.moveTo(x, Y(y[i]!))
      pen = true
    }
    c.stroke()
  }
  c.restore()
  c.textAlign = 'right'
  c.fillStyle = k.soft!
  for (const l of rows.value) {
    c.fillText(l.name, 80, l.top + Math.min(l.h, 22) - 6)
    if (l.h > 40) {
      let top = l.least
      for (const v of props.data.of[l.c]) if (v > top) top = v
      c.fillText(`0 … ${l.c === 'speed' ? withUnit(top, 'km/h', 2) : figure(top, 2)}`, 80, l.top + 28)
    }
  }
  c.fillStyle = k.ink!
  c.textAlign = 'left'
  for (const e of props.events) {
    if (e.t_edge_s < from || e.t_edge_s > now) continue
    const said = e.latency_ms !== null ? `${e.latency_ms.toFixed(0)} ms` : (advice[e.result] ?? e.result).split(':')[0]!
    c.fillStyle = k.panel!
    c.fillRect(X(e.t_edge_s) + 5, 8, c.measureText(said).width + 8, 17)
    c.fillStyle = k.ink!
    c.fillText(said, X(e.t_edge_s) + 9, 20)
  }
  c.strokeStyle = k.ink!
  c.setLineDash([2, 4])
  for (const m of props.marks ?? []) {
    if (m.t_s < from || m.t_s > now) continue
    c.beginPath()
    c.moveTo(X(m.t_s), 4)
    c.lineTo(X(m.t_s), h - 20)
    c.stroke()
  }
  c.setLineDash([])
}
defineExpose({ draw })
watch([width, canvas, H], () => {
  if (!canvas.value || !width.value) return
  const r = window.devicePixelRatio || 1
  canvas.value.width = width.value * r
  canvas.value.height = H.value * r
  draw()
})
// Nothing moves while nothing runs.
const { pause, resume } = useRafFn(draw, { immediate: false })
watch(
  () => props.moving,
  (m) => (m ? resume() : pause()),
  { immediate: true },
)
</script>

<template>
  <div ref="box">
    <canvas ref="canvas" :style="{ height: `${H}px` }" role="img" :aria-label="label" />
  </div>
</template>

<style scoped>
canvas {
  width: 100%;
  display: block;
}
</style>
