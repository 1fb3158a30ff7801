<script setup lang="ts">
import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'
import { bare, withUnit } from '@/state/units'

/** What a test showed: each limit with its figure, and what was measured besides. */
defineProps<{ outcome: Schemas['TestOutcome'] }>()
function asked(j: Schemas['Judged']) {
  if (j.lower !== null && j.upper !== null)
    return $t('{lower} to {upper}', { lower: bare(j.lower, j.unit), upper: withUnit(j.upper, j.unit) })
  if (j.lower !== null) return $t('at least {lower}', { lower: withUnit(j.lower, j.unit) })
  return j.upper !== null ? $t('at most {upper}', { upper: withUnit(j.upper, j.unit) }) : ''
}
</script>

<template>
  <table v-if="outcome.judged?.length || outcome.figures?.length" data-test="outcome">
    <thead>
      <tr>
        <th>{{ $t('what it shows') }}</th>
        <th class="num">{{ $t('measured') }}</th>
        <th class="num">{{ $t('asked') }}</th>
        <th></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="j in outcome.judged" :key="j.part + j.output" :class="{ bad: j.result === 'fail' }">
        <td>{{ j.result === 'fail' && j.wrong ? j.wrong : j.words }}</td>
        <td class="num">{{ j.value !== null ? withUnit(j.value, j.unit) : '' }}</td>
        <td class="num">{{ asked(j) }}</td>
        <td>{{ j.severity === 'note' ? '' : j.result === 'pass' ? $t('holds') : $t('fails') }}</td>
      </tr>
      <tr v-for="f in outcome.figures" :key="f.name">
        <td>{{ f.words }}</td>
        <td class="num">{{ withUnit(f.value, f.unit) }}</td>
        <td></td>
        <td></td>
      </tr>
    </tbody>
  </table>
</template>
