<script setup lang="ts">
import { bare, unitShown } from '@/state/units'
import { useQuery } from '@tanstack/vue-query'
import { api, take } from '@/api/client'
import { clock } from '@/lib/words'
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
      <h2>Connected now</h2>
      <span v-if="data?.simulated" class="small">the simulated ones stand in for real tools</span>
    </header>
    <p v-if="!data?.devices.length" class="small">
      No tool is connected. Start with <code>--instruments ADDRESS</code> to link to one.
    </p>
    <div v-else class="scroll" tabindex="0" role="group" aria-label="Connected tools">
      <table>
        <thead>
          <tr>
            <th><span class="sr">state</span></th>
            <th>number</th>
            <th>sends</th>
            <th class="num">lines</th>
            <th class="num">not usable</th>
            <th>last</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="d in data.devices" :key="d.device + d.address">
            <td>
              <GateMark
                :state="d.connected ? 'open' : 'held'"
                :size="26"
                :label="d.connected ? 'connected' : 'unplugged'"
              />
            </td>
            <td class="num left">{{ d.device }}</td>
            <td>{{ d.kinds.map((k) => k.replaceAll('_', ' ')).join(', ') }}</td>
            <td class="num">{{ d.lines }}</td>
            <td class="num">{{ d.bad }}</td>
            <td>
              <template v-if="!d.connected">unplugged</template>
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
