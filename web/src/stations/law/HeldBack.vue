<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** What is said to hold the vehicle below what it could do, whether it counts, and which way it fails. */
defineProps<{ held: Schemas['Restraint'][] }>()
const goes: Record<string, string> = {
  lower: 'stays low',
  stops: 'stops driving',
  full: 'goes to full',
  '': 'not tried yet',
}
</script>

<template>
  <section class="panel" data-test="held-back">
    <header>
      <h2>Power or speed limited</h2>
      <span class="small"
        >a limit counts if it survives switching off and on, is out of the rider's reach, and fails to the lower
        limit</span
      >
    </header>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th>what</th>
            <th>by</th>
            <th>if it comes off</th>
            <th>counts</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(h, i) in held" :key="i">
            <td>{{ h.of }}{{ h.motor ? `, ${h.motor}` : '' }}</td>
            <td>{{ h.how.replaceAll('_', ' ') || 'not said' }}</td>
            <td :class="{ stop: h.fails === 'full' }">{{ goes[h.fails] ?? h.fails }}</td>
            <td :class="h.why ? 'stop' : ''">{{ h.why ? `not counted: ${h.why}` : 'yes' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
