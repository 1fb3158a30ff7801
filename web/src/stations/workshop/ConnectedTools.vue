<script setup lang="ts">
import { bare, unitShown } from '@/state/units'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { clock, term } from '@/lib/words'
import GateMark from '@/parts/GateMark.vue'

/** The tools that are connected, and what came from them. */
const { data } = useQuery({
  queryKey: ['devices'],
  queryFn: () => take(api.GET('/api/devices')),
  refetchInterval: 3000,
})
</script>

<template>
  <section class="panel" data-test="devices">
    <header>
      <h2>{{ $t('Connected now') }}</h2>
      <span v-if="data?.simulated" class="small">{{ $t('the simulated ones stand in for real tools') }}</span>
    </header>
    <p v-if="data && !data.devices.length" class="small">
      {{ $t('No tool is connected. Start with') }} <code>{{ $t('--instruments ADDRESS') }}</code>
      {{ $t('to link to one.') }}
    </p>
    <div v-else-if="data" class="scroll" tabindex="0" role="group" :aria-label="$t('Connected tools')">
      <table>
        <thead>
          <tr>
            <th>
              <span class="sr">{{ $t('state') }}</span>
            </th>
            <th>{{ $t('number') }}</th>
            <th>{{ $t('sends') }}</th>
            <th class="num">{{ $t('lines') }}</th>
            <th class="num">{{ $t('not usable') }}</th>
            <th>{{ $t('last') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in data.devices" :key="d.device + d.address">
            <td>
              <GateMark
                :state="d.connected ? 'open' : 'held'"
                :size="26"
                :label="d.connected ? $t('connected') : $t('unplugged')"
              />
            </td>
            <td class="num left" translate="no">{{ d.device }}</td>
            <td>{{ d.kinds.map(term).join(', ') }}</td>
            <td class="num">{{ d.lines }}</td>
            <td class="num">{{ d.bad }}</td>
            <td>
              <template v-if="!d.connected">{{ $t('unplugged') }}</template>
              <template v-else-if="d.last"
                ><span class="num">{{ bare(d.last.value, d.last.unit) }}</span> {{ unitShown(d.last.unit) }},
                {{ clock(d.last_at!) }}</template
              >
              <div v-if="d.problem" class="small attend">{{ d.problem }}</div>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
td {
  vertical-align: middle;
}
td.left {
  text-align: left;
}
</style>
