<script setup lang="ts">
import { $t } from '@/lib/say'
import { term } from '@/lib/words'
import { withUnit } from '@/state/units'
import { useQuery } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'
import StateNote from '@/parts/StateNote.vue'
import { parseNumber } from '@/lib/number'
import { useDisplay } from './display'

/** The stand-in: a panel that works the simulated vehicle. It is not the product. */
const { data } = useQuery({
  queryKey: ['devices'],
  queryFn: () => take(api.GET('/api/devices')),
  refetchInterval: 3000,
})
const rest = { power: false, throttle: 0, cadence: 0, cruise: false, spin: false, pack_0: true, pack_1: true }
const plugs = { switch_left: true, switch_right: true, pad_nm: 9, clamp: 0 }
const set = reactive({ ...rest, ...plugs })
const held = reactive({ left: false, right: false })
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
let touched = 0
function put(k: keyof typeof set) {
  touched = Date.now()
  return send({ set: { [k]: Number(set[k]) } })
}
const lever = (side: string, mm: number) => send({ set: { [`lever_${side}_mm`]: mm } })
/** A pull as a hand makes it: pulled, held over a second, let go. */
const busy = ref('')
async function pull(side: 'left' | 'right' | 'both' | 'light') {
  if (busy.value) return
  busy.value = side
  const sides = side === 'both' ? ['left', 'right'] : [side === 'light' ? 'left' : side]
  const to = (mm: number) => send({ set: Object.fromEntries(sides.map((s) => [`lever_${s}_mm`, mm])) })
  await to(side === 'light' ? 7 : 25)
  await new Promise((r) => setTimeout(r, 1800))
  await to(0)
  busy.value = ''
}
async function anew() {
  Object.assign(set, rest, plugs)
  Object.assign(held, { left: false, right: false })
  await send({ vehicle: vehicle.value })
  if (fault.value) await send({ faults: [fault.value] })
}
async function shift() {
  await send({ set: { shift: 1 } }) // the sensor's own pulse ends by itself
}
async function rock() {
  for (const c of [15, -15, 15, -15, 15, 0]) {
    await send({ set: { cadence: c } })
    await new Promise((r) => setTimeout(r, 350))
  }
}

const shown = useDisplay(
  () => data.value?.simulated,
  // Somebody else, or this page before, may have switched it on.
  (lit) => {
    if (Date.now() - touched > 2000) set.power = lit
  },
)

const hand = reactive({ kind: 'torque', value: '40' })
function hold() {
  const v = hand.value.trim() === '' ? null : parseNumber(hand.value)
  if (v === undefined) {
    problem.value = $t('Type what it really is, as a number; leave it empty to hold the tool to the vehicle.')
    return
  }
  void send({ measure: { kind: hand.kind, value: v } })
}
</script>

<template>
  <section v-if="data?.simulated" class="stand-in" data-test="rig" :aria-label="$t('Stand-in: the simulated vehicle')">
    <header>
      <h2>{{ $t('Stand-in: a simulated vehicle') }}</h2>
      <output class="num display" data-test="rig-display" :aria-label="$t('The vehicle\'s own display')">{{
        shown.code < 0
          ? $t('dark')
          : shown.code > 0
            ? $t('code {code}', { code: shown.code })
            : withUnit(shown.speed, 'km/h')
      }}</output>
    </header>
    <p class="small">{{ $t('Not part of the bench. It takes the place of the vehicle and its tools.') }}</p>
    <div class="row">
      <label class="tick">
        <input v-model="set.power" type="checkbox" data-test="rig-power" @change="put('power')" />
        {{ $t('power') }}
      </label>
      <label class="field slide">
        <span>{{ $t('throttle {percent} %', { percent: Math.round(set.throttle * 100) }) }}</span>
        <input
          v-model.number="set.throttle"
          type="range"
          min="0"
          max="1"
          step="0.01"
          data-test="rig-throttle"
          @input="put('throttle')"
        />
      </label>
      <label class="field slide">
        <span>{{ $t('pedals {cadence} /min', { cadence: set.cadence }) }}</span>
        <input
          v-model.number="set.cadence"
          type="range"
          min="-60"
          max="100"
          step="5"
          data-test="rig-pedals"
          @input="put('cadence')"
        />
      </label>
      <label class="tick">
        <input v-model="set.cruise" type="checkbox" data-test="rig-cruise" @change="put('cruise')" />
        {{ $t('cruise') }}
      </label>
      <label class="tick">
        <input v-model="set.spin" type="checkbox" data-test="rig-spin" @change="put('spin')" />
        {{ $t('hand turns the wheel') }}
      </label>
    </div>
    <div class="row">
      <button
        v-for="s in ['left', 'right', 'both', 'light'] as const"
        :key="s"
        type="button"
        :disabled="busy !== ''"
        :data-test="`rig-${s}`"
        @click="pull(s)"
      >
        {{ busy === s ? $t('held…') : s === 'light' ? $t('left, lightly') : $t('pull {lever}', { lever: term(s) }) }}
      </button>
      <button type="button" data-test="rig-shift" @click="shift">{{ $t('shift') }}</button>
      <button type="button" data-test="rig-rock" @click="rock">{{ $t('rock the cranks') }}</button>
      <label v-for="s in ['left', 'right'] as const" :key="s" class="tick">
        <input v-model="held[s]" type="checkbox" :data-test="`rig-hold-${s}`" @change="lever(s, held[s] ? 25 : 0)" />
        {{ $t('hold {lever}', { lever: term(s) }) }}
      </label>
    </div>
    <details>
      <summary>{{ $t('Plugs, pad, clamp') }}</summary>
      <div class="row">
        <label
          v-for="[k, words] in [
            ['switch_left', $t('left switch in')],
            ['switch_right', $t('right switch in')],
            ['pack_0', $t('first pack in')],
            ['pack_1', $t('second pack in')],
          ] as const"
          :key="k"
          class="tick"
        >
          <input v-model="set[k]" type="checkbox" :data-test="`rig-${k}`" @change="put(k)" />
          {{ words }}
        </label>
        <label class="field slide">
          <span>{{ $t('drag pad {pad_nm}', { pad_nm: withUnit(set.pad_nm, 'N·m') }) }}</span>
          <input
            v-model.number="set.pad_nm"
            type="range"
            min="0"
            max="30"
            step="0.5"
            data-test="rig-pad"
            @input="put('pad_nm')"
          />
        </label>
        <label class="field">
          <span>{{ $t('clamp on') }}</span>
          <select v-model.number="set.clamp" data-test="rig-clamp" @change="put('clamp')">
            <option :value="0">{{ $t("the battery's lead") }}</option>
            <option :value="1">{{ $t("the first motor's") }}</option>
            <option :value="2">{{ $t("the second motor's") }}</option>
          </select>
        </label>
      </div>
    </details>
    <details>
      <summary>{{ $t('Hand tools') }}</summary>
      <form class="row" @submit.prevent="hold">
        <label class="field">
          <span>{{ $t('tool') }}</span>
          <select v-model="hand.kind" data-test="rig-tool">
            <option v-for="t in data.hand" :key="t.kind" :value="t.kind">{{ term(t.kind) }}, {{ t.unit }}</option>
          </select>
        </label>
        <label class="field">
          <span>{{ $t('held to something of') }}</span>
          <input v-model="hand.value" class="num" inputmode="decimal" data-test="rig-true" />
        </label>
        <button type="submit" data-test="rig-measure">{{ $t('read it') }}</button>
      </form>
    </details>
    <div class="row">
      <label class="field">
        <span>{{ $t('vehicle') }}</span>
        <select v-model="vehicle" data-test="rig-vehicle">
          <option v-for="v in data.vehicles" :key="v" :value="v">{{ term(v) }}</option>
        </select>
      </label>
      <label class="field">
        <span>{{ $t('fault in it') }}</span>
        <select v-model="fault" data-test="rig-fault">
          <option value="">{{ $t('none') }}</option>
          <option v-for="f in data.faults" :key="f.name" :value="f.name">{{ f.words }}</option>
        </select>
      </label>
      <button type="button" data-test="rig-anew" @click="anew">{{ $t('put it on the stand') }}</button>
    </div>
    <StateNote :error="problem" />
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
header {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
h2 {
  font-size: 15px;
}
.display {
  background: var(--ink);
  color: var(--paper);
  padding: 2px 10px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
.row .field {
  flex: 1 1 120px;
}
.row .slide input {
  height: 34px;
}
summary {
  min-height: 36px;
  cursor: pointer;
  align-content: center;
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
  padding: 0 11px;
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
