<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import { sendFile, type Schemas } from '@/api/client'
import { suitedTools } from '@/lib/evidence'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import { useWorkshop } from '@/state/workshop'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'

/** Stops out of a recording that was made while riding: one is taken as the reading that it is. */
const props = defineProps<{ path: string }>()
const { set, locked } = useInspection()
const { tools, fieldAt } = useWorkshop()
const stops = ref<Schemas['RiddenStop'][] | null>(null)
const name = ref('')
const tool = ref('')
const busy = ref(false)
const problem = ref('')
const said = ref('')
/** What reads both a speed and the way of a stop: the pickup at the wheel. */
const pickups = computed(() => {
  const ways = suitedTools(tools.value, fieldAt(`${props.path}.distance_m`)).map((t) => t.id)
  return suitedTools(tools.value, fieldAt(`${props.path}.speed_kmh`)).filter((t) => ways.includes(t.id))
})
async function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  busy.value = true
  problem.value = said.value = ''
  stops.value = null
  name.value = file.name
  try {
    stops.value = await sendFile<Schemas['RiddenStop'][]>('/api/stops', file, 'text/csv')
  } catch (x) {
    problem.value = (x as Error).message
  }
  busy.value = false
}
const levers = (s: Schemas['RiddenStop']) =>
  s.levers?.length === 2
    ? $t('both levers')
    : s.levers?.length
      ? $t('{levers} lever alone', { levers: s.levers[0] })
      : $t('no lever')
async function use(s: Schemas['RiddenStop']) {
  const from = { source: 'measured', instrument: tool.value }
  // To what the pickup shows, not to what a division leaves.
  const at = (v: number) => ({ value: Number(v.toFixed(2)), ...from })
  if (!(await set(`${props.path}.speed_kmh`, at(s.speed_kmh), tool.value))) return
  if (await set(`${props.path}.distance_m`, at(s.distance_m), tool.value))
    said.value = $t('Taken: {speed_kmh}, {distance_m}.', {
      speed_kmh: withUnit(s.speed_kmh, 'km/h'),
      distance_m: withUnit(s.distance_m, 'm'),
    })
}
</script>

<template>
  <div v-if="!locked" class="stops" data-test="stop-record">
    <label class="file">
      <input type="file" accept=".csv,text/csv" data-test="stop-file" @change="chosen" />
      <span>{{ busy ? $t('Loading…') : $t('From a recording (CSV with speed and levers)') }}</span>
    </label>
    <StateNote :error="problem" />
    <template v-if="stops">
      <p v-if="!stops.length" class="small">
        {{ $t('{name} has no stop in it: no lever was pulled while it rolled.', { name }) }}
      </p>
      <template v-else>
        <label class="field">
          <span>{{ $t('Speed was read by') }}</span>
          <select v-model="tool" data-test="stop-tool">
            <option value="" disabled>{{ $t('choose first') }}</option>
            <option v-for="t in pickups" :key="t.id" :value="t.id">
              {{ t.id }} {{ t.name }}{{ t.lapsed ? $t(' (lapsed)') : '' }}
            </option>
          </select>
        </label>
        <ul class="rows">
          <li v-for="s in stops" :key="s.at_s">
            <span>{{
              $t('{speed_kmh}, {distance_m}, {deceleration}, at {at_s}', {
                speed_kmh: withUnit(s.speed_kmh, 'km/h'),
                distance_m: withUnit(s.distance_m, 'm'),
                deceleration: levers(s),
                at_s: withUnit(s.at_s, 's'),
              })
            }}</span>
            <span v-if="s.why" class="attend">{{ ' ' + $t('Does not count: {why}.', { why: s.why }) }}</span>
            <ActButton v-else :disabled="!tool" data-test="stop-use" @click="use(s)">{{
              $t('Take this stop')
            }}</ActButton>
          </li>
        </ul>
        <p class="small">
          {{
            $t(
              "A braked wheel slips: the distance counts with the house's uncertainty. A tape on the ground is better.",
            )
          }}
        </p>
      </template>
    </template>
    <p v-if="said" class="small" role="status" data-test="stop-said">{{ said }}</p>
  </div>
</template>

<style scoped>
.stops {
  display: grid;
  gap: 8px;
  padding: 10px;
  background: var(--panel);
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  justify-content: space-between;
}
</style>
