<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { withUnit } from '@/state/units'

/** The steps of a calculation, each with its figures and its source. */
defineProps<{ steps: Schemas['CalcResult']['working'] }>()
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>{{ $t('what') }}</th>
        <th>{{ $t('how') }}</th>
        <th>{{ $t('with the figures') }}</th>
        <th class="num">{{ $t('result') }}</th>
        <th>{{ $t('source') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="s in steps" :key="s.symbol">
        <td>{{ s.symbol }}</td>
        <td>{{ s.expr }}</td>
        <td class="num left">{{ s.numbers }}</td>
        <td class="num">{{ withUnit(s.value, s.unit, 4) }}</td>
        <td class="small">{{ s.source }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
td.left {
  text-align: left;
}
</style>
