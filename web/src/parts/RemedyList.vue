<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { withUnit } from '@/state/units'

/** What would make a check pass, the cheapest first; what is not enough says so. */
defineProps<{ remedies: Schemas['Remedy'][]; after: (r: Schemas['Remedy']) => string }>()
function change(c: Schemas['Change']): string {
  if (c.key.endsWith('.arm')) return c.title
  return `${c.title} ${withUnit(c.from, c.unit)} to ${withUnit(c.to, c.unit)}`
}
</script>

<template>
  <ul class="rows">
    <li v-for="(r, i) in remedies" :key="i" :class="{ no: !r.enough }">
      <b v-for="c in r.changes" :key="c.key">{{ r.enough ? change(c) : c.title }}</b>
      <div class="small">
        <template v-if="r.enough"
          >{{ after(r) }} · {{ r.minutes }} min · opens
          {{ r.undoes?.map((o) => o.replaceAll('_', ' ')).join(', ') }}</template
        >
        <template v-else>not enough by itself: at its end {{ after(r) }}</template>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.no b {
  color: var(--soft);
}
</style>
