<script setup lang="ts">
import AppDialog from '@/parts/AppDialog.vue'
import ActButton from '@/parts/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { figure, term } from '@/lib/words'
import { width, withUnit } from '@/state/units'
import WorkingSteps from './WorkingSteps.vue'

/** How a computed check came about: steps, sources, uncertainty, schools. */
const props = defineProps<{ check: string }>()
const open = defineModel<boolean>({ required: true })
const { id, view, check: find } = useInspection()
const c = computed(() => find(props.check))

const { data } = useQuery({
  queryKey: computed(() => ['explain', id, props.check, view.value?.seq]),
  queryFn: () =>
    take(api.GET('/api/inspections/{id}/checks/{check}', { params: { path: { id, check: props.check } } })),
  enabled: open,
})
type Working = { working?: Schemas['Step'][]; budget?: Record<string, Schemas['Share'][]>; u?: Record<string, number> }
const result = computed(() => (data.value?.result ?? {}) as Working)
const budgets = computed(() =>
  Object.entries(result.value.budget ?? {}).filter(([out]) => c.value?.judged.some((j) => j.output === out)),
)
const titleOf = (input: string) => c.value?.sources.find((s) => s.input === input)?.title ?? input
</script>

<template>
  <AppDialog v-model="open" max-width="980" :aria-label="$t('Working of {title}', { title: c?.title })">
    <div class="sheet">
      <header>
        <h2>{{ $t('{title}: the working', { title: c?.title }) }}</h2>
        <ActButton variant="text" @click="open = false">{{ $t('Close') }}</ActButton>
      </header>
      <div class="scroll">
        <h3>{{ $t('Steps') }}</h3>
        <WorkingSteps v-if="result.working?.length" :steps="result.working" />
        <p v-else class="small">
          {{
            $t('Nothing calculated yet: {needs}', { needs: c?.needs.map((n) => `${n.title}: ${n.words}`).join('; ') })
          }}
        </p>

        <h3>{{ $t('What went in') }}</h3>
        <table>
          <thead>
            <tr>
              <th>{{ $t('input') }}</th>
              <th class="num">{{ $t('value') }}</th>
              <th class="num">u</th>
              <th>{{ $t('from') }}</th>
              <th>{{ $t('instrument') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="s in c?.sources" :key="s.path + s.input">
              <td>{{ s.title }}</td>
              <td class="num">{{ s.word ?? withUnit(s.value, s.unit, 4) }}</td>
              <td class="num">{{ s.u ? figure(width(s.u, s.unit), 2) : '–' }}</td>
              <td>{{ term(s.source) }}</td>
              <td>{{ s.instrument ? `${s.instrument.id} ${s.instrument.name}` : '' }}</td>
            </tr>
          </tbody>
        </table>

        <template v-if="budgets.length">
          <h3>{{ $t('Where the uncertainty comes from') }}</h3>
          <table v-for="[out, shares] in budgets" :key="out">
            <caption>
              {{
                c?.judged.find((j) => j.output === out)?.words
              }}: u
              {{
                figure(result.u?.[out], 2)
              }}
            </caption>
            <tbody>
              <tr v-for="s in shares.slice(0, 5)" :key="s.input">
                <td>{{ titleOf(s.input) }}</td>
                <td class="num">{{ Math.round(s.share * 100) }} %</td>
              </tr>
            </tbody>
          </table>
        </template>
      </div>
    </div>
  </AppDialog>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
h3 {
  margin: 18px 0 6px;
}
caption {
  text-align: left;
  padding: 8px 0 4px;
  font-size: 14px;
}
td.left {
  text-align: left;
}
</style>
