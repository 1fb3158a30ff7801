<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { term, figure } from '@/lib/words'
import { advice } from './words'

/** Every pull of a recording; the one under the pointer is lit in the drawing too. */
const props = defineProps<{ events: Schemas['Event'][] }>()
const pull = defineModel<number | null>({ required: true })
const numbered = computed(() => {
  const n: Record<string, number> = {}
  return props.events.map((e, i) => ({ e, i, n: (n[e.lever] = (n[e.lever] ?? 0) + 1) }))
})
</script>

<template>
  <div class="scroll" tabindex="0" role="group" :aria-label="$t('Every pull')">
    <table data-test="pulls">
      <thead>
        <tr>
          <th>{{ $t('pull') }}</th>
          <th class="num">{{ $t('at, s') }}</th>
          <th>{{ $t('by') }}</th>
          <th class="num">{{ $t('drive, A') }}</th>
          <th class="num">{{ $t('latency, ms') }}</th>
          <th class="num">{{ $t('left on, A') }}</th>
          <th>{{ $t('result') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="p in numbered"
          :key="p.i"
          :class="{
            bad: p.e.late,
            lit: pull === p.i,
          }"
          @mouseenter="pull = p.i"
          @mouseleave="pull = null"
        >
          <td>{{ term(p.e.lever) }} {{ p.n }}</td>
          <td class="num">{{ p.e.t_edge_s.toFixed(2) }}</td>
          <td>{{ term(p.e.way) }}</td>
          <td class="num">{{ figure(p.e.i_pre_a) }}</td>
          <td class="num">{{ p.e.latency_ms !== null ? p.e.latency_ms.toFixed(0) : '–' }}</td>
          <td class="num">{{ figure(p.e.residual_a, 2) }}</td>
          <td>{{ p.e.relit ? $t('came back while held') : (advice[p.e.result] ?? p.e.result) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
tr.lit td {
  background: var(--jade-pale);
}
</style>
