<script setup lang="ts">
import { computed, ref } from 'vue'
import type { CheckState, Schemas } from '@/api/client'
import { useExplain } from '@/state/explain'
import { withUnit } from '@/state/units'
import ActButton from '@/parts/ActButton.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import RemedyList from '@/parts/RemedyList.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'

/** How a lead fares at the currents that flow in it, and what would make it do. */
const props = defineProps<{ c: CheckState }>()
const why = useExplain(
  computed(() => props.c.id),
  'wire-run',
)
const judged = computed(() => {
  const all = props.c.judged.filter((j) => j.value !== null)
  // One ribbon a figure: the gravest of what is asked of it.
  return all.filter(
    (j, n) => all.findIndex((o) => o.output === j.output && (o.result === 'fail' || j.result !== 'fail')) === n,
  )
})
const needs = computed(() => [...new Set(props.c.needs.map((n) => `${n.title}: ${n.words}`))])
const after = (r: Schemas['Remedy']) =>
  (r.judged ?? [])
    .filter((j) => ['peak_c', 'drop_pct'].includes(j.output) && j.value !== null)
    .map((j) => withUnit(j.value, j.unit))
    .join(', ')
/** What would do; only where nothing does by itself, how far each goes. */
const remedies = computed(() => {
  const all = why.value?.remedies ?? []
  const enough = all.filter((r) => r.enough)
  return enough.length ? enough : all
})
const working = ref(false)
</script>

<template>
  <section class="panel" data-test="lead-sums">
    <header>
      <h2>{{ c.title.replace(/^[^:]*: /, '') }}</h2>
      <ActButton v-if="judged.length" variant="text" @click="working = true">{{ $t('Working') }}</ActButton>
    </header>
    <div v-if="judged.length" class="ribbons"><MarginRibbon v-for="j in judged" :key="j.output" :j="j" /></div>
    <ul v-if="needs.length" class="small">
      <li v-for="n in needs" :key="n">{{ n }}</li>
    </ul>
    <template v-if="c.outcome === 'fail' && remedies.length">
      <h3>{{ $t('What would do') }}</h3>
      <RemedyList :remedies="remedies" :after="after" />
    </template>
    <p class="caution">{{ $t('Pack off and unplugged before a plug is opened or closed. Nothing is forced.') }}</p>
    <WorkingSheet v-model="working" :check="c.id" />
  </section>
</template>

<style scoped>
.ribbons {
  display: grid;
  gap: 12px;
}
ul {
  margin: 6px 0;
  padding-left: 18px;
}
h3 {
  margin: 12px 0 4px;
}
</style>
