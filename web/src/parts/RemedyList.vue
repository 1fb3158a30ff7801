<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'
import { withUnit } from '@/state/units'

/** What would make a check pass, the cheapest first; what is not enough says so. */
defineProps<{ remedies: Schemas['Remedy'][]; after: (r: Schemas['Remedy']) => string }>()
function change(c: Schemas['Change']): string {
  if (c.key.endsWith('.arm')) return c.title
  return $t('{title} {from} to {to}', { title: c.title, from: withUnit(c.from, c.unit), to: withUnit(c.to, c.unit) })
}
</script>

<template>
  <ul class="rows">
    <li v-for="(r, i) in remedies" :key="i" :class="{ no: !r.enough }">
      <b v-for="c in r.changes" :key="c.key">{{ r.enough ? change(c) : c.title }}</b>
      <div class="small">
        <template v-if="r.enough">{{
          $t('{value} · {minutes} min · opens {undoes}', {
            value: after(r),
            minutes: r.minutes,
            undoes: r.undoes?.map(term).join(', '),
          })
        }}</template>
        <template v-else>{{ $t('not enough by itself: at its end {value}', { value: after(r) }) }}</template>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.no b {
  color: var(--soft);
}
</style>
