<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import type { View } from '@/api/client'
import EndShape from './drawing/EndShape.vue'
import PlanShape from './drawing/PlanShape.vue'
import SideShape from './drawing/SideShape.vue'
import ZoneDrawing from './drawing/ZoneDrawing.vue'
import { endPlaces, endView, leftPlaces, planPlaces, sidePlaces, sideView, type Canvas } from './geometry'

/** This vehicle to scale, from whichever side is meant, its zones touchable. */
const props = defineProps<{ view: View; zone: string | null; gate?: number }>()
const emit = defineEmits<{ zone: [zone: string] }>()
type Side = 'right' | 'left' | 'front' | 'rear' | 'above'
const from = ref<Side>('right')
const sheet = computed(() => props.view.sheet)
const sides = computed<[Side, string][]>(() => [
  ['right', $t('drive side')],
  ['left', $t('left side')],
  ['front', $t('front')],
  ['rear', $t('rear')],
  ...(sheet.value.kind === 'bicycle' ? [] : ([['above', $t('above')]] as [Side, string][])),
])
const v = computed(() => sideView(sheet.value))
const end = computed(() => endView(sheet.value, v.value, from.value === 'front' ? 'front' : 'rear'))
const places = computed(() => {
  const side = sidePlaces(sheet.value, v.value)
  switch (from.value) {
    case 'right':
      return side
    case 'left':
      return leftPlaces(side)
    case 'above':
      return planPlaces(sheet.value, v.value)
  }
  return endPlaces(sheet.value, v.value, end.value)
})
/** What lies below the drawing's zero is lifted over it. */
const lift = computed(() => (from.value === 'above' ? Math.max(v.value.rear.r + 40, -v.value.box.x0) : 0))
const box = computed(() => {
  const b = v.value.box
  const half = Math.max((sheet.value.geometry?.track_mm ?? 700) / 2 + 60, ...v.value.cargo.map((c) => c.half + 30))
  switch (from.value) {
    case 'right':
      return b
    case 'left':
      return { x0: -b.x1, x1: -b.x0, y1: b.y1 }
    case 'above':
      return { x0: -half, x1: half, y1: b.x1 + lift.value }
  }
  return { x0: -end.value.half, x1: end.value.half, y1: Math.max(end.value.top, 2 * end.value.r) }
})
const lifted = computed(() =>
  Object.fromEntries(
    Object.entries(places.value).map(([z, k]) => [z, { ...k, at: { x: k.at.x, y: k.at.y + lift.value } }]),
  ),
)
const turned = (c: Canvas): Canvas =>
  from.value === 'left'
    ? {
        X: (x) => c.X(-x),
        Y: c.Y,
        line: (...q) => c.line(...q.map((k) => ({ x: -k.x, y: k.y }))),
      }
    : { X: c.X, Y: (y) => c.Y(y + lift.value), line: c.line }
const name = computed(() => sides.value.find(([k]) => k === from.value)?.[1])
</script>

<template>
  <div>
    <div class="sides" role="group" :aria-label="$t('Seen from')">
      <button v-for="[k, n] in sides" :key="k" type="button" :aria-pressed="from === k" @click="from = k">
        {{ n }}
      </button>
    </div>
    <ZoneDrawing
      :key="from"
      :box="box"
      :places="lifted"
      :zone="zone"
      :gate="gate"
      :ground="from !== 'above'"
      :label="$t('{name}, {view}, to scale', { name: sheet.name, view: name })"
      @zone="emit('zone', $event)"
    >
      <template #default="{ canvas }">
        <SideShape v-if="from === 'right' || from === 'left'" :view="view" :v="v" :canvas="turned(canvas)" />
        <PlanShape v-else-if="from === 'above'" :view="view" :v="v" :canvas="turned(canvas)" />
        <EndShape v-else :view="view" :v="v" :e="end" :canvas="canvas" />
      </template>
    </ZoneDrawing>
  </div>
</template>

<style scoped>
.sides {
  display: flex;
  flex-wrap: wrap;
  gap: 0 6px;
}
.sides button {
  min-height: 44px;
  padding: 0 9px;
  border: 0;
  background: transparent;
  color: var(--soft);
  font: inherit;
  font-size: 14px;
  cursor: pointer;
}
.sides button[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: underline;
  text-underline-offset: 6px;
  text-decoration-thickness: 2px;
}
</style>
