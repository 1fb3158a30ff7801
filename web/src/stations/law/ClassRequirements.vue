<script setup lang="ts">
import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'
import { bare } from '@/state/units'
import { limitOf, result, valueOf, what } from './words'

/** Everything that a class asks for, with this vehicle's figures. */
defineProps<{ requirements: Schemas['ClassResult']['requirements'] }>()
const by: Record<string, string> = { reading: $t('measured'), paper: $t('by paper'), answer: $t('looked at') }
const tone = (r: string) => (r === 'fail' ? 'stop' : r === 'pass' ? '' : 'attend')
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>{{ $t('asked') }}</th>
        <th class="num">{{ $t('this vehicle') }}</th>
        <th class="num">{{ $t('limit') }}</th>
        <th>{{ $t('result') }}</th>
        <th>{{ $t('by') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in requirements" :key="r.id + r.what">
        <td>{{ what(r) }}</td>
        <td class="num">{{ valueOf(r) || '–' }}{{ r.value !== null && r.U ? ` ± ${bare(r.U, r.unit)}` : '' }}</td>
        <td class="num">{{ limitOf(r) || '–' }}</td>
        <td :class="tone(r.result)">
          {{ result[r.result] ?? r.result
          }}{{ r.question && !['pass', 'fail'].includes(r.result) ? `: ${r.question}` : '' }}
        </td>
        <td>{{ by[r.by] ?? '' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
td,
th {
  font-weight: 400;
  padding-block: 4px;
  vertical-align: middle;
}
@media (min-width: 621px) {
  .num {
    white-space: nowrap;
  }
}
@media (max-width: 620px) {
  :is(td, th):last-child {
    display: none; /* how it is known; the reading says it too */
  }
}
</style>
