<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { clock, date } from '@/lib/words'
import { useWorkshop } from '@/state/workshop'
import StateNote from '@/parts/StateNote.vue'

/** Who changed people, tools, kit sheets and rules: a log that is chained like an inspection's. */
const page = 25
const { data, error, isPending, hasNextPage, fetchNextPage } = useInfiniteQuery({
  queryKey: ['register-log'],
  queryFn: ({ pageParam }) =>
    take(api.GET('/api/registers/log', { params: { query: { before: pageParam, limit: page } } })),
  initialPageParam: 0,
  getNextPageParam: (last: Schemas['RegisterChange'][]) => (last.length === page ? last.at(-1)!.seq : undefined),
})
const changes = computed(() => data.value?.pages.flat() ?? [])
const registers: Record<string, string> = {
  person: 'people',
  instrument: 'tools',
  kit: 'kit sheets',
  share: 'shared with guests',
  rules: 'rules in force',
  workshop: 'the workshop',
}
const { workshop } = useWorkshop()
const names = (ids: string[]) =>
  ids.map((id) => workshop.value?.people.find((p) => p.id === id)?.name ?? id).join(', ') || 'nobody'
/** What a change left the item as, in a few words. */
function words(c: Schemas['RegisterChange']): string {
  const d = c.data as Record<string, unknown>
  switch (c.kind) {
    case 'person':
      return `${d.name as string}: ${d.left ? `left ${d.left as string}` : (d.role as string)}`
    case 'instrument':
      return `${c.id} ${d.name as string}${d.valid_to ? `: certificate to ${date(d.valid_to as string)}` : ''}`
    case 'share':
      return `${c.id}: ${names((d.guests as string[]) ?? [])}`
    case 'rules':
      return `${c.id}, ${d.version as string}`
    case 'workshop':
      return `${d.name as string}, ${d.place as string}`
  }
  return c.id
}
</script>

<template>
  <section class="panel" data-test="register-log">
    <header>
      <h2>Changes</h2>
      <span class="small">chained by hash and sealed: none can be removed or altered unseen</span>
    </header>
    <StateNote :error="error" :loading="isPending && 'Loading the changes…'" :empty="!changes.length && 'None yet.'" />
    <div v-if="changes.length" class="scroll" tabindex="0" role="group" aria-label="Changes of the registers">
      <table>
        <thead>
          <tr>
            <th>when</th>
            <th>who</th>
            <th>register</th>
            <th>from then on</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in changes" :key="c.seq">
            <td class="num when">{{ date(c.at) }} {{ clock(c.at) }}</td>
            <td>{{ c.by }}</td>
            <td>{{ registers[c.kind] ?? c.kind }}</td>
            <td>{{ words(c) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <ActButton v-if="hasNextPage" variant="text" @click="fetchNextPage()">Earlier ones</ActButton>
  </section>
</template>

<style scoped>
.when {
  text-align: left;
  white-space: nowrap;
}
</style>
