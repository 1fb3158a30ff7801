<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'

/** What is said to hold the vehicle below what it could do, whether it counts, and which way it fails. */
defineProps<{ held: Schemas['Restraint'][] }>()
const goes: Record<string, string> = {
  lower: $t('stays low'),
  stops: $t('stops driving'),
  full: $t('goes to full'),
  '': $t('not tried yet'),
}
</script>

<template>
  <section class="panel" data-test="held-back">
    <header>
      <h2>{{ $t('Power or speed limited') }}</h2>
      <span class="small">{{
        $t(
          "a limit counts if it survives switching off and on, is out of the rider's reach, and fails to the lower limit",
        )
      }}</span>
    </header>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th>{{ $t('what') }}</th>
            <th>{{ $t('by') }}</th>
            <th>{{ $t('if it comes off') }}</th>
            <th>{{ $t('counts') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(h, i) in held" :key="i">
            <td>{{ h.of }}{{ h.motor ? `, ${h.motor}` : '' }}</td>
            <td>{{ term(h.how) || $t('not said') }}</td>
            <td :class="{ stop: h.fails === 'full' }">{{ goes[h.fails] ?? h.fails }}</td>
            <td :class="h.why ? 'stop' : ''">{{ h.why ? $t('not counted: {why}', { why: h.why }) : $t('yes') }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
