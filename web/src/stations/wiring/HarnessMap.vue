<script setup lang="ts">
import { $t } from '@/lib/say'
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { useHarness } from '@/state/harness'
import { useInspection } from '@/state/inspection'
import { at as standsAt } from '@/lib/sheet'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'
import SideShape from '@/parts/drawing/SideShape.vue'
import { sideView, type Canvas, type Pt } from '@/parts/geometry'
import { called, middleOf, signals, stops, usual, way, wordsOf, type DrawnLead, type Stop } from './harness'
import { useLaying } from './laying'
import { usePinning } from './pinning'
import MapLead from './MapLead.vue'
import MapPin from './MapPin.vue'

/**
 * The power leads along the vehicle: as wide as their copper, coloured by how warm they get at the peak. A lead is
 * laid by dragging from one end to the other, or by choosing one after the other.
 */
defineProps<{ picked: number | null }>()
const emit = defineEmits<{ pick: [lead: number] }>()
const { view, add, check, locked } = useInspection()
const map = useHarness()
const sheet = computed(() => view.value!.sheet)
const v = computed(() => sideView(sheet.value))
const nodes = computed(() => {
  const told = map.value?.nodes ?? []
  // A combiner can be joined before any lead names it.
  const also = (sheet.value.packs?.length ?? 0) > 1 && !told.some((n) => n.kind === 'combiner')
  return also ? [...told, { id: 'combiner', kind: 'combiner' as const, title: $t('combiner') }] : told
})
const places = computed(() => stops(sheet.value, nodes.value))
const place = (end: string) => places.value.find((s) => s.id === end)

const el = useTemplateRef('el')
const svg = useTemplateRef('svg')
const { width } = useElementSize(el)
const SIDE = 70
const span = computed(() => v.value.box.x1 - v.value.box.x0)
const px = computed(() => Math.max((span.value + 160) / Math.max(300, width.value || 700), v.value.box.y1 / 330))
const W = computed(() => Math.max(span.value + 2 * SIDE, (width.value || 700) * px.value))
const H = computed(() => v.value.box.y1 + 40 * px.value)
const X = (x: number) => x - v.value.box.x0 + (W.value - span.value) / 2
const Y = (y: number) => H.value - y
const canvas = computed<Canvas>(() => ({
  X,
  Y,
  line: (...q) => 'M' + q.map((k) => `${X(k.x).toFixed(1)} ${Y(k.y).toFixed(1)}`).join('L'),
}))

const thin = computed(() => signals(sheet.value, v.value))
const given = (i: number, k: string) =>
  (standsAt(view.value?.sheet, `given.wire_run_${i}.${k}`) as { value?: number | null } | undefined)?.value ?? null
const leads = computed<DrawnLead[]>(() => {
  const beside = new Map<string, number>()
  return (map.value?.leads ?? []).map((l, i) => {
    const pack = sheet.value.leads?.[i]?.pack
    const a = place(l.from || (pack != null ? `pack.${pack}` : 'controller.0'))
    const b = place(l.to || (pack != null ? 'controller.0' : 'motor.0'))
    const pair = [a?.id, b?.id].sort().join(' ')
    const n = beside.get(pair) ?? 0
    beside.set(pair, n + 1)
    const q = a && b ? way(a, b, v.value, n) : []
    return {
      i,
      title: l.title,
      ends: Boolean(l.from && l.to),
      q,
      label: q.length ? middleOf(q, 17 * px.value) : null,
      area: l.run?.area_mm2 ?? given(i, 'area_mm2'),
      warm: l.run ? (l.run.runaway ? null : l.run.peak_c) : undefined,
      amps: l.peak_a || null,
      fuse: given(i, 'fuse_a'),
      plug: given(i, 'connector_a'),
      bad: map.value!.problems.some((p) => p.lead === i) || check(l.check)?.outcome === 'fail',
      state: check(l.check)?.outcome,
    }
  })
})
/** A pack's name stands beside it, every second one on its other side. */
const beside = (s: Stop) =>
  Number(s.id.slice(5)) % 2 ? { x: -13, y: 20, anchor: 'end' } : { x: 14, y: -9, anchor: 'start' }

const said = ref('')
const { from, tip, toDrawing, hold, drag, letGo, choose } = useLaying(svg, locked, lay)

const { pinning, chosen, pinHere, busy, problem } = usePinning()
const toVehicle = (p: Pt): Pt => ({ x: p.x + v.value.box.x0 - (W.value - span.value) / 2, y: H.value - p.y })
const pins = computed(() => (view.value?.photos ?? []).flatMap((p) => (p.what.pin ? [{ ...p, at: p.what.pin }] : [])))

async function lay(a: string, b: string) {
  const n = leads.value.length
  if (await add('leads', { from: a, to: b })) {
    said.value = $t('Lead from {from} to {to}.', { from: called(a), to: called(b) })
    emit('pick', n)
  }
}
async function layUsual() {
  for (const l of usual(sheet.value)) await add('leads', l)
  emit('pick', 0)
}
</script>

<template>
  <div ref="el" class="map" data-test="harness">
    <svg
      ref="svg"
      :viewBox="`0 0 ${W} ${H + 30}`"
      role="group"
      :aria-label="$t('Power leads of {name}', { name: sheet.name })"
      @pointermove="drag"
      @pointerup="letGo(null)"
      @pointerleave="tip = null"
      @click.capture="pinning && ($event.stopPropagation(), pinHere(toVehicle(toDrawing($event))))"
    >
      <g opacity="0.42" aria-hidden="true"><SideShape :view="view!" :v="v" :canvas="canvas" bare /></g>
      <g v-for="t in thin" :key="t.words" aria-hidden="true">
        <path :d="canvas.line(...t.q)" class="thin" :stroke-width="1.5 * px" />
        <text
          :transform="`translate(${X(t.q.at(-1)!.x)} ${Y(t.q.at(-1)!.y)}) scale(${px})`"
          class="note"
          :text-anchor="t.beside ? 'start' : 'end'"
          :x="t.beside ? 38 : 0"
          :y="t.beside ? 22 : -16"
        >
          {{ t.words }}
        </text>
      </g>
      <MapLead
        v-for="l in leads"
        :key="l.i"
        :lead="l"
        :on="l.i === picked"
        :canvas="canvas"
        :px="px"
        @pick="emit('pick', l.i)"
      />
      <path
        v-if="from && tip"
        :d="`M${X(from.at.x)} ${Y(from.at.y)}L${tip.x} ${tip.y}`"
        stroke="var(--ink)"
        :stroke-width="2 * px"
        :stroke-dasharray="`${6 * px} ${5 * px}`"
        fill="none"
        pointer-events="none"
      />
      <template v-for="l in leads" :key="`t${l.i}`">
        <g
          v-if="l.label"
          :transform="`translate(${X(l.label.x)} ${Y(l.label.y)}) scale(${px})`"
          class="tag"
          aria-hidden="true"
        >
          <circle r="10" :class="{ bad: l.bad }" />
          <text y="4.5" text-anchor="middle" :class="['no', { bad: l.bad }]">{{ l.i + 1 }}</text>
          <text v-if="l.i === picked" x="15" y="4.5" class="amount">{{ wordsOf(l) }}</text>
        </g>
      </template>
      <g
        v-for="s in places"
        :key="s.id"
        :class="['node', { on: from?.id === s.id }]"
        role="button"
        tabindex="0"
        :aria-label="`${s.title}${from && from.id !== s.id ? $t(': lay the lead from {title} to here', { title: from.title }) : $t(': a lead begins here')}`"
        :aria-pressed="from?.id === s.id"
        :data-node="s.id"
        :transform="`translate(${X(s.at.x)} ${Y(s.at.y)}) scale(${px})`"
        @pointerdown="hold($event, s)"
        @pointerup.stop="letGo(s)"
        @click.stop="choose(s, true)"
        @keydown.enter.prevent="choose(s)"
        @keydown.space.prevent="choose(s)"
        @keydown.esc="from = null"
      >
        <circle r="22" class="hit" />
        <circle r="9" />
        <text v-if="s.id.startsWith('pack')" :x="beside(s).x" :y="beside(s).y" :text-anchor="beside(s).anchor">
          {{ s.title }}
        </text>
        <text v-else y="25" text-anchor="middle">{{ s.title }}</text>
      </g>
      <MapPin
        v-for="(k, i) in pins"
        :key="k.id"
        :photo="k.what"
        :by="k.by"
        :n="i + 1"
        :transform="`translate(${X(k.at.x)} ${Y(k.at.y)}) scale(${px})`"
      />
    </svg>
    <p class="small" role="status">
      {{
        pinning
          ? $t('Touch the place that the photo shows.')
          : from
            ? $t('From {title}: now the other end.', { title: from.title })
            : said || $t('Drag from one end to the other, or choose one and then the other, to lay a lead.')
      }}
    </p>
    <p v-for="(p, i) in map?.problems" :key="i" class="stop" data-test="harness-problem">
      {{ p.lead >= 0 ? `${map!.leads[p.lead]?.title || $t('lead {lead}', { lead: p.lead + 1 })}: ` : '' }}{{ p.words }}.
    </p>
    <StateNote :error="problem" />
    <div class="foot">
      <label v-if="!locked" class="file">
        <input type="file" accept="image/*" capture="environment" data-test="pin-photo" @change="chosen" />
        <span>{{ busy ? $t('Storing…') : $t('Pin a photo') }}</span>
      </label>
      <ActButton v-if="!locked && !leads.length && sheet.packs?.length" data-test="usual-leads" @click="layUsual">{{
        $t('Lay the usual leads')
      }}</ActButton>
    </div>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  height: auto;
  max-height: 56vh;
  display: block;
  touch-action: none;
}
.node {
  cursor: pointer;
}
.node:focus-visible {
  outline: none;
}
.thin {
  fill: none;
  stroke: var(--copper);
  stroke-dasharray: 5 4;
}
.amount {
  font: 600 12.5px var(--figures);
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 4px;
}
.note {
  font: 400 12.5px var(--words);
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 4px;
}
.tag {
  pointer-events: none;
}
.tag circle {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 1.4;
}
.tag circle.bad {
  fill: var(--plum);
  stroke: var(--plum);
}
.no {
  font: 700 12.5px var(--figures);
  fill: var(--ink);
}
.no.bad {
  fill: var(--panel);
}
.node circle {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 2;
}
.node .hit {
  fill: transparent;
  stroke: none;
}
.node.on circle:not(.hit),
.node:focus-visible circle:not(.hit) {
  stroke: var(--copper);
  stroke-width: 4;
}
.node text {
  font: 700 13px var(--words);
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 4px;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: end;
}
</style>
