<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { term, clock, date } from '@/lib/words'
import { useWorkshop } from '@/state/workshop'
import { asks } from '../law/words'
import StateNote from '@/parts/StateNote.vue'

/** Who changed people, tools, kit sheets and rules: a log that is chained like an inspection's. */
const page = 25
const { data, error, isPending, hasNextPage, fetchNextPage } = useInfiniteQuery({
  queryKey: ['register-log'],
  queryFn: ({ pageParam }) =>
    take(api.GET('/api/registers/log', { params: { query: { before: pageParam, limit: page } } })),
  initialPageParam: 0,
  getNextPageParam: (last: Schemas['ChangeOfRegister'][]) => (last.length === page ? last.at(-1)!.seq : undefined),
})
/** Facts of one law that one person read one after the other are a line. */
const changes = computed(() => {
  const out: (Schemas['ChangeOfRegister'] & { facts: number })[] = []
  for (const c of data.value?.pages.flat() ?? []) {
    const above = out.at(-1)
    if (c.kind === 'law_review' && above?.kind === c.kind && above.by === c.by && packOf(above) === packOf(c))
      above.facts++
    else out.push({ ...c, facts: 1 })
  }
  return out
})
const packOf = (c: Schemas['ChangeOfRegister']) => c.id.split('/')[0]!
const registers: Record<string, string> = {
  person: $t('people'),
  instrument: $t('tools'),
  kit: $t('kit sheets'),
  share: $t('shared with guests'),
  rules: $t('rules in force'),
  workshop: $t('the workshop'),
  pack: $t('laws of our own'),
  law_review: $t('laws read'),
  law_text: $t('texts of laws'),
}
const { workshop } = useWorkshop()
const lawName = (id: string) => workshop.value?.rule_packs.find((p) => p.id === id)?.name ?? id
const names = (ids: string[]) =>
  ids.map((id) => workshop.value?.people.find((p) => p.id === id)?.name ?? id).join(', ') || $t('nobody')
/** What a change left the item as, in a few words. */
function words(c: Schemas['ChangeOfRegister'] & { facts: number }): string {
  const d = c.data as Record<string, unknown>
  switch (c.kind) {
    case 'person':
      return `${d.name as string}: ${d.left ? $t('left {left}', { left: d.left as string }) : term(d.role as string)}`
    case 'instrument':
      return `${c.id} ${d.name as string}${d.valid_to ? $t(': certificate to {string}', { string: date(d.valid_to as string) }) : ''}`
    case 'share':
      return `${c.about || c.id}: ${names((d.guests as string[]) ?? [])}`
    case 'rules':
      return `${c.id === 'house policy' ? $t('house policy') : $t('pack {id}', { id: c.id.replace('pack ', '') })}, ${d.version as string}`
    case 'law_review':
      return c.facts === 1
        ? `${lawName(packOf(c))}: ${asks[d.field as string] ?? ''}`
        : $t('{law}: {n} facts', { law: lawName(packOf(c)), n: c.facts })
    case 'law_text':
      return `${lawName(packOf(c))}: ${d.name as string}`
    case 'workshop':
      if (c.id === 'heads') return $t('ledger of the ends of all logs, begun')
      if (c.id === 'key') return d.since ? $t('another key to seal with') : $t('key to seal with')
      return `${d.name as string}, ${d.place as string}`
  }
  return c.id
}
</script>

<template>
  <section class="panel" data-test="register-log">
    <header>
      <h2>{{ $t('Changes') }}</h2>
      <span class="small">{{ $t('chained by hash and sealed: none can be removed or altered unseen') }}</span>
    </header>
    <StateNote
      :error="error"
      :loading="isPending && $t('Loading the changes…')"
      :empty="!changes.length && $t('None yet.')"
    />
    <div v-if="changes.length" class="scroll" tabindex="0" role="group" :aria-label="$t('Changes of the registers')">
      <table>
        <thead>
          <tr>
            <th>{{ $t('when') }}</th>
            <th>{{ $t('who') }}</th>
            <th>{{ $t('register') }}</th>
            <th>{{ $t('from then on') }}</th>
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
    <ActButton v-if="hasNextPage" variant="text" @click="fetchNextPage()">{{ $t('Earlier ones') }}</ActButton>
  </section>
</template>

<style scoped>
.when {
  text-align: left;
  white-space: nowrap;
}
</style>
