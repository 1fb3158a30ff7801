<script setup lang="ts">
import { $t } from '@/lib/say'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, sendFile, take, type CheckState, type Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'
import RidePlot from './RidePlot.vue'

/**
 * The recorded ride: a file is read and drawn, the part that matters is kept, and the runs there and back are marked
 * on it.
 */
const props = defineProps<{ c: CheckState }>()
const { id, view, set, locked } = useInspection()
const { data: ride, error } = useQuery({
  queryKey: computed(() => ['ride', id, view.value?.seq]),
  queryFn: () => take(api.GET('/api/inspections/{id}/ride', { params: { path: { id } } })),
  placeholderData: keepPreviousData,
})
const file = ref<File | null>(null)
const brought = ref<Schemas['RideFile'] | null>(null)
const busy = ref(false)
const problem = ref('')
/** A stretch that is being marked, s. */
const marked = ref<[number, number] | null>(null)
const plot = computed(() => brought.value?.plot ?? ride.value?.plot ?? null)
const runs = computed(() => (brought.value ? [] : (ride.value?.runs ?? [])))

async function read(part?: [number, number]) {
  if (!file.value) return
  busy.value = true
  problem.value = ''
  try {
    const q = part ? `?from_s=${part[0]}&to_s=${part[1]}` : ''
    brought.value = await sendFile<Schemas['RideFile']>(`/api/rides${q}`, file.value, 'application/octet-stream')
    marked.value = null
  } catch (e) {
    problem.value = (e as Error).message
  }
  busy.value = false
}
function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  file.value = input.files?.[0] ?? null
  brought.value = null
  input.value = ''
  void read()
}
async function keep() {
  const b = brought.value
  if (!b) return
  if (await set('given.road_speed', { [b.kind]: { value: b.text, source: 'seen' } })) {
    brought.value = file.value = null
    marked.value = null
  }
}
const stored = computed(() => runs.value.map((r) => [r.from_s, r.to_s] as [number, number]))
async function addRun() {
  if (!marked.value) return
  const all = [...stored.value, marked.value].slice(-2).sort((a, b) => a[0] - b[0])
  marked.value = null
  const at = (value: number) => ({ value, source: 'seen' })
  await set(
    'given.road_speed.runs',
    all.map(([a, b]) => [at(a), at(b)]),
  )
}
/** What the marked stretch shows. */
const { data: part } = useQuery({
  queryKey: computed(() => ['ride-part', id, view.value?.seq, marked.value]),
  enabled: computed(() => Boolean(marked.value && !brought.value)),
  queryFn: () =>
    take(
      api.GET('/api/inspections/{id}/ride', {
        params: { path: { id }, query: { from_s: marked.value![0], to_s: marked.value![1] } },
      }),
    ),
})
watch(plot, () => (marked.value = null))
const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, '0')}`
const limit = computed(() => props.c.judged.find((j) => j.upper !== null)?.upper ?? null)
const stretch = (s: Schemas['Stretch']) =>
  [
    $t('{from_s} to {to_s}', { from_s: clock(s.from_s), to_s: clock(s.to_s) }),
    withUnit(s.way_m, 'm'),
    $t('{mean_kmh} in the mean', { mean_kmh: withUnit(s.mean_kmh, 'km/h') }),
    s.rise_pct == null ? '' : $t('slope {rise_pct}', { rise_pct: withUnit(s.rise_pct, '%') }),
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div class="ride" data-test="ride-record">
    <label v-if="!locked" class="file key">
      <input type="file" accept=".gpx,.csv,application/gpx+xml,text/csv" data-test="ride-file" @change="chosen" />
      <span>{{ busy ? $t('Loading…') : plot ? $t('Another ride’s file') : $t('Ride’s file: GPX or CSV') }}</span>
    </label>
    <StateNote :error="problem || error" />
    <template v-if="plot">
      <RidePlot v-model="marked" :plot="plot" :runs="stored" :limit="limit" />
      <template v-if="brought">
        <p class="small" role="status">
          {{
            $t('{name}: {points} points{left_out}{gaps}{times}. Not saved yet.', {
              name: file?.name,
              points: brought.points,
              left_out:
                brought.segments > 1
                  ? $t(', {segments} stretches with pauses between', { segments: brought.segments })
                  : '',
              gaps: brought.left_out
                ? $t('; {left_out} without position or time, or out of step, left out', { left_out: brought.left_out })
                : '',
              times: brought.extensions.length
                ? $t('; it also carries {brought}, which is not judged', { brought: brought.extensions.join(', ') })
                : '',
            })
          }}
        </p>
        <span class="acts">
          <ActButton variant="flat" data-test="ride-keep" @click="keep">{{ $t('Save this ride') }}</ActButton>
          <ActButton v-if="marked" data-test="ride-part" @click="read(marked)">{{
            $t('Only the marked part')
          }}</ActButton>
        </span>
      </template>
      <template v-else>
        <p v-if="!marked && stored.length < 2 && !locked" class="small">
          {{
            $t(
              'Mark a run there and a run back: drag across the plot. Their mean takes wind and slope out. Without them the fastest stretch counts.',
            )
          }}
        </p>
        <p v-if="marked && part?.part" class="small" role="status">{{ stretch(part.part) }}.</p>
        <ul v-if="runs.length" class="rows small" data-test="runs">
          <li v-for="(r, i) in runs" :key="i">{{ $t('Run {n}: {run}.', { n: i + 1, run: stretch(r) }) }}</li>
        </ul>
        <p v-if="ride?.unfair" class="attend" data-test="unfair">
          {{ $t('Not counted: {unfair}.', { unfair: ride.unfair }) }}
        </p>
        <span v-if="!locked" class="acts">
          <ActButton v-if="marked" variant="flat" data-test="run-add" @click="addRun">{{
            stored.length ? $t('This is the other run') : $t('This is a run')
          }}</ActButton>
          <ActButton v-if="stored.length" variant="text" @click="set('given.road_speed.runs', null)">{{
            $t('Clear the runs')
          }}</ActButton>
        </span>
      </template>
    </template>
    <p v-else-if="!busy" class="small">{{ $t('No ride saved yet. Do not ride above the local speed limit.') }}</p>
  </div>
</template>

<style scoped>
.ride {
  display: grid;
  gap: 10px;
  padding: 10px;
  background: var(--panel);
}
</style>
