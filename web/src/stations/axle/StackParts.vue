<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { figure } from '@/app/words'

/** The parts of each side from the middle outwards: add, measure, move, take off. */
const props = defineProps<{ axle: Schemas['VehicleAxle']; at: string }>()
const { set, locked } = useInspection()
type Part = Schemas['VehiclePart']
const kinds = ['spacer', 'plain_washer', 'tab_washer', 'lock_washer', 'torque_arm', 'rotor_spacer', 'other']
const parts = computed(() => props.axle.parts ?? [])
const listed = (side: string) => parts.value.map((p, i) => ({ p, i })).filter((x) => x.p.side === side)

/** A part as the sheet stores it, without what was left empty. */
function plain(p: Part) {
  const t = p.thickness_mm
  return {
    side: p.side,
    place: p.place,
    kind: p.kind,
    tol_mm: p.tol_mm,
    ...(t?.value != null
      ? {
          thickness_mm: {
            value: t.value,
            source: t.source,
            ...(t.u != null ? { u: t.u } : {}),
            ...(t.instrument ? { instrument: t.instrument } : {}),
          },
        }
      : {}),
  }
}
const save = (list: Part[]) => set(`${props.at}parts`, list.map(plain))

function change(i: number, patch: Partial<Part>) {
  void save(parts.value.map((p, k) => (k === i ? { ...p, ...patch } : p)))
}
function measure(i: number, text: string) {
  const v = Number(text.replace(',', '.'))
  if (text !== '' && Number.isFinite(v) && v >= 0 && v <= 60)
    change(i, { thickness_mm: { value: v, source: 'measured', u: 0.02 } })
}
function move(i: number, by: number) {
  const own = listed(parts.value[i]!.side)
  const k = own.findIndex((x) => x.i === i) + by
  const other = own[k]?.i
  if (other === undefined) return
  const list = [...parts.value]
  ;[list[i], list[other]] = [list[other]!, list[i]!]
  void save(list)
}
function add(side: string) {
  const empty = { value: null, u: null }
  void save([...parts.value, { side, place: 'outer', kind: 'plain_washer', tol_mm: 0.05, thickness_mm: empty }])
}
const word = (k: string) => k.replaceAll('_', ' ')
</script>

<template>
  <div class="sides">
    <div v-for="side in ['left', 'right']" :key="side">
      <h3>{{ side }}, from the motor outwards</h3>
      <ol class="rows">
        <li v-for="{ p, i } in listed(side)" :key="i">
          <label
            ><span class="sr">part</span>
            <select
              :value="p.kind"
              :disabled="locked"
              @change="change(i, { kind: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="k in kinds" :key="k" :value="k">{{ word(k) }}</option>
            </select>
          </label>
          <label
            ><span class="sr">place</span>
            <select
              :value="p.place"
              :disabled="locked"
              @change="change(i, { place: ($event.target as HTMLSelectElement).value })"
            >
              <option value="inner">inside dropout</option>
              <option value="outer">outside dropout</option>
            </select>
          </label>
          <label class="mm"
            ><span class="sr">thickness, mm</span>
            <input
              class="num"
              inputmode="decimal"
              :value="p.thickness_mm?.value != null ? figure(p.thickness_mm.value, 3) : ''"
              placeholder="mm"
              :disabled="locked"
              @change="measure(i, ($event.target as HTMLInputElement).value)"
            />
          </label>
          <span class="move">
            <button
              type="button"
              :disabled="locked"
              :aria-label="`${word(p.kind)} nearer to the motor`"
              @click="move(i, -1)"
            >
              ↑
            </button>
            <button
              type="button"
              :disabled="locked"
              :aria-label="`${word(p.kind)} farther from the motor`"
              @click="move(i, 1)"
            >
              ↓
            </button>
            <button
              type="button"
              :disabled="locked"
              :aria-label="`take off ${word(p.kind)}`"
              @click="save(parts.filter((_, k) => k !== i))"
            >
              ✕
            </button>
          </span>
        </li>
      </ol>
      <VBtn :disabled="locked" @click="add(side)">Add a part, {{ side }}</VBtn>
    </div>
  </div>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(330px, 1fr));
  gap: 10px 26px;
}
ol li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) 74px auto;
  gap: 6px;
  align-items: center;
}
.move button {
  width: 34px;
  height: 44px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  font: inherit;
}
@media (max-width: 460px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
  ol li {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
</style>
