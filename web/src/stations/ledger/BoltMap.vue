<script setup lang="ts">
import { computed } from 'vue'
import type { View } from '@/api/client'
import { sidePlaces, sideView, type Canvas } from '@/parts/geometry'
import SideShape from '@/parts/drawing/SideShape.vue'
import BoltDot from './BoltDot.vue'
import { markOf, type Line } from './bolts'

/** Where the bolts are: small clusters on the vehicle, the ring in work large beside it. */
const props = defineProps<{ view: View; lines: Line[]; current: Line | null }>()
const emit = defineEmits<{ pick: [line: Line] }>()
const v = computed(() => sideView(props.view.sheet))
const W = computed(() => v.value.box.x1 - v.value.box.x0 + 80)
const H = computed(() => v.value.box.y1 + 110)
const canvas = computed<Canvas>(() => {
  const X = (x: number) => x - v.value.box.x0 + 40
  const Y = (y: number) => H.value - y - 20
  return { X, Y, line: (...q) => 'M' + q.map((k) => `${X(k.x).toFixed(1)} ${Y(k.y).toFixed(1)}`).join('L') }
})
const R = 17
const clusters = computed(() => {
  const places = sidePlaces(props.view.sheet, v.value)
  const by = new Map<string, Line[]>()
  for (const l of props.lines) {
    const k = `${l.zone} ${l.ring ? l.ring_name || 'ring' : ''}`
    by.set(k, [...(by.get(k) ?? []), l])
  }
  const used = new Map<string, number>()
  return [...by].flatMap(([k, list]) => {
    const zone = k.split(' ')[0]!
    const at = places[zone]?.at
    if (!at) return []
    const row = used.get(zone) ?? 0
    used.set(zone, row + 1)
    const x0 = canvas.value.X(at.x)
    const y0 = canvas.value.Y(at.y)
    return list.map((l, i) => {
      if (l.ring) {
        const a = (2 * Math.PI * (l.ring - 1)) / list.length - Math.PI / 2
        const c = 62 + row * 44
        return { l, x: x0 + c * Math.cos(a), y: y0 + c * Math.sin(a) }
      }
      const per = 5
      const y = y0 + 30 + (Math.floor(i / per) + row) * R * 2.6
      return { l, x: x0 + ((i % per) - (Math.min(per, list.length) - 1) / 2) * R * 2.5, y }
    })
  })
})
const ring = computed(() =>
  props.current?.ring
    ? props.lines.filter((l) => l.check === props.current!.check && l.ring && l.ring_name === props.current!.ring_name)
    : [],
)
const ringAt = (n: number) => {
  const a = (2 * Math.PI * (n - 1)) / ring.value.length - Math.PI / 2
  return { x: 130 + 78 * Math.cos(a), y: 130 + 78 * Math.sin(a) }
}
/** The way across: from each bolt to the next in turn. */
const across = computed(() => {
  const order = [...ring.value].sort((a, b) => a.turn - b.turn).map((l) => ringAt(l.ring))
  return 'M' + order.map((p) => `${p.x} ${p.y}`).join('L')
})
const order = computed(() => [...ring.value].sort((a, b) => a.turn - b.turn).map((l) => l.ring))
</script>

<template>
  <div class="map">
    <svg
      :viewBox="`0 0 ${W} ${H}`"
      role="img"
      :aria-label="$t('The bolts of {name}: {n} on the list', { name: view.sheet.name, n: lines.length })"
    >
      <g opacity="0.42"><SideShape :view="view" :v="v" :canvas="canvas" /></g>
      <BoltDot
        v-for="b in clusters"
        :key="b.l.at"
        :x="b.x"
        :y="b.y"
        :r="R"
        :mark="markOf(b.l)"
        :next="b.l.next"
        :picked="b.l.at === current?.at"
        class="tap"
        @click="emit('pick', b.l)"
      />
    </svg>
    <figure v-if="ring.length">
      <svg
        viewBox="0 0 260 260"
        role="img"
        :aria-label="
          $t('{current}, tightened in the order {order}', {
            current: current?.ring_name || $t('Ring'),
            order: order.join(' '),
          })
        "
      >
        <circle cx="130" cy="130" r="104" fill="none" stroke="var(--line)" stroke-width="2" />
        <circle cx="130" cy="130" r="30" fill="none" stroke="var(--line)" stroke-width="2" />
        <path :d="across" fill="none" stroke="var(--copper)" stroke-width="2" stroke-dasharray="5 4" />
        <BoltDot
          v-for="l in ring"
          :key="l.at"
          :x="ringAt(l.ring).x"
          :y="ringAt(l.ring).y"
          :r="19"
          :mark="markOf(l)"
          :next="l.next"
          :picked="l.at === current?.at"
          :text="String(l.ring)"
          class="tap"
          @click="emit('pick', l)"
        />
      </svg>
      <figcaption class="small">
        {{ $t('{current}, crosswise', { current: current?.ring_name || $t('ring') }) }}
        <span class="num">{{ order.join(' ') }}</span>
      </figcaption>
    </figure>
  </div>
</template>

<style scoped>
.map {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
}
.map > svg {
  width: 100%;
  max-height: 300px;
}
figure svg {
  width: 220px;
  display: block;
}
figcaption {
  text-align: center;
}
.tap {
  cursor: pointer;
}
@media (max-width: 760px) {
  .map {
    grid-template-columns: minmax(0, 1fr);
    justify-items: center;
  }
}
</style>
