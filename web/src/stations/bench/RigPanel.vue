<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'

/** The stand-in: a panel that works the simulated vehicle. It is not the product. */
const { data } = useQuery({
  queryKey: ['devices'],
  queryFn: () => take(api.GET('/api/devices')),
  refetchInterval: 3000,
})
const set = reactive({ power: false, throttle: 0, cadence: 0 })
const vehicle = ref('one_motor')
const fault = ref('')
const problem = ref('')
async function send(c: Partial<Schemas['Control']>) {
  problem.value = ''
  try {
    await take(
      api
        .POST('/api/rig', { body: { v: 1, ...c } })
        .then((r) => (r.response.ok ? { ...r, data: true } : { ...r, data: undefined })),
    )
  } catch (e) {
    problem.value = (e as ApiError).message
  }
}
const put = (k: string, v: number) => send({ set: { [k]: v } })
/** A pull as a hand makes it: pulled, held over a second, let go. */
const busy = ref('')
async function pull(side: 'left' | 'right' | 'both') {
  if (busy.value) return
  busy.value = side
  const sides = side === 'both' ? ['left', 'right'] : [side]
  await send({ set: Object.fromEntries(sides.map((s) => [`lever_${s}_mm`, 25])) })
  await new Promise((r) => setTimeout(r, 1800))
  await send({ set: Object.fromEntries(sides.map((s) => [`lever_${s}_mm`, 0])) })
  busy.value = ''
}
async function anew() {
  Object.assign(set, { power: false, throttle: 0, cadence: 0 })
  await send({ vehicle: vehicle.value })
  if (fault.value) await send({ faults: [fault.value] })
}
async function shift() {
  await put('shift', 1)
  await new Promise((r) => setTimeout(r, 120))
  await put('shift', 0)
}
</script>

<template>
  <section v-if="data?.simulated" class="stand-in" data-test="rig" aria-label="Stand-in: the simulated vehicle">
    <h2>Stand-in: a simulated vehicle</h2>
    <p class="small">Not part of the bench. It takes the place of the vehicle and its tools.</p>
    <div class="row">
      <label class="tick">
        <input v-model="set.power" type="checkbox" data-test="rig-power" @change="put('power', set.power ? 1 : 0)" />
        power
      </label>
      <label class="field slide">
        <span>throttle {{ Math.round(set.throttle * 100) }} %</span>
        <input
          v-model.number="set.throttle"
          type="range"
          min="0"
          max="1"
          step="0.05"
          data-test="rig-throttle"
          @input="put('throttle', set.throttle)"
        />
      </label>
      <label class="field slide">
        <span>pedals {{ set.cadence }} /min</span>
        <input
          v-model.number="set.cadence"
          type="range"
          min="0"
          max="100"
          step="5"
          data-test="rig-pedals"
          @input="put('cadence', set.cadence)"
        />
      </label>
    </div>
    <div class="row">
      <button
        v-for="s in ['left', 'right', 'both'] as const"
        :key="s"
        type="button"
        :disabled="busy !== ''"
        :data-test="`rig-${s}`"
        @click="pull(s)"
      >
        {{ busy === s ? 'held…' : s === 'both' ? 'pull both' : `pull ${s}` }}
      </button>
      <button type="button" data-test="rig-shift" @click="shift">shift</button>
    </div>
    <div class="row">
      <label class="field">
        <span>vehicle</span>
        <select v-model="vehicle" data-test="rig-vehicle">
          <option value="one_motor">front hub</option>
          <option value="two_motors">two motors</option>
        </select>
      </label>
      <label class="field">
        <span>fault in it</span>
        <select v-model="fault" data-test="rig-fault">
          <option value="">none</option>
          <option v-for="f in data.faults" :key="f.name" :value="f.name">{{ f.words }}</option>
        </select>
      </label>
      <button type="button" data-test="rig-anew" @click="anew">put it on the stand</button>
    </div>
    <p v-if="problem" class="stop" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.stand-in {
  border: 2px dashed var(--soft);
  border-radius: 3px;
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  background: repeating-linear-gradient(135deg, transparent 0 14px, var(--panel) 14px 28px);
}
h2 {
  font-size: 15px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: end;
}
.row .field {
  flex: 1 1 130px;
}
.tick {
  min-height: 44px;
  display: flex;
  gap: 8px;
  align-items: center;
}
.tick input {
  width: 22px;
  height: 22px;
}
button {
  min-height: 44px;
  padding: 0 14px;
  border: 1px dashed var(--ink);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  font: inherit;
}
button:disabled {
  color: var(--soft);
}
</style>
