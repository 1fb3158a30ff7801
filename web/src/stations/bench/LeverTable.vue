<script setup lang="ts">
import { term } from '@/lib/words'
import TermHint from '@/parts/TermHint.vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { resultWord } from './words'

/** Each lever in milliseconds: mean, worst, and the bound that pulls stay below. */
const props = defineProps<{ levers: Record<string, Schemas['LeverResult']> }>()
const list = computed(() => Object.entries(props.levers))
</script>

<template>
  <div>
    <table>
      <thead>
        <tr>
          <th>{{ $t('lever') }}</th>
          <th class="num">{{ $t('pulls') }}</th>
          <th class="num">{{ $t('mean') }}</th>
          <th class="num">{{ $t('worst') }}</th>
          <th class="num"><TermHint term="bound" /></th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="[name, l] in list" :key="name" :class="{ bad: l.result === 'fail' }">
          <td>{{ term(name) }}</td>
          <td class="num">{{ l.n }}</td>
          <td class="num">{{ l.mean_ms?.toFixed(0) ?? '–' }}</td>
          <td class="num">{{ l.worst_ms?.toFixed(0) ?? '–' }}</td>
          <td class="num">{{ l.bound_ms?.toFixed(0) ?? '–' }}</td>
          <td>{{ resultWord[l.result] ?? l.result }}</td>
        </tr>
      </tbody>
    </table>
    <p
      v-for="[name, l] in list.filter(([, x]) => x.tight_ms !== null && x.result !== 'fail')"
      :key="`t${name}`"
      class="small"
    >
      {{
        $t('{lever}: {pulls} more pulls give a surer limit, about {ms} ms if they scatter alike.', {
          lever: term(name),
          pulls: l.tight_pulls,
          ms: l.tight_ms!.toFixed(0),
        })
      }}
    </p>
    <p v-for="[name, l] in list.filter(([, x]) => x.why?.length)" :key="name" class="small">
      {{ term(name) }}: {{ l.why?.join('; ')
      }}<template v-if="l.pulls_wanted">{{
        $t('. {pulls_wanted} more pulls would tell', { pulls_wanted: l.pulls_wanted })
      }}</template
      >.
    </p>
  </div>
</template>

<style scoped>
.bad {
  color: var(--plum-text);
  font-weight: 700;
}
</style>
