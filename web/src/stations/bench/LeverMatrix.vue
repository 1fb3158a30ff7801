<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'

/** Each lever by each motor by each way of driving: does it cut, does it brake? */
const { id, view } = useInspection()
const { data } = useQuery({
  queryKey: computed(() => ['matrix', id, view.value?.evaluation.seq]),
  queryFn: () => take(api.GET('/api/inspections/{id}/bench/matrix', { params: { path: { id } } })),
  placeholderData: (old) => old,
})
const ways = computed(() =>
  (data.value?.ways ?? []).filter((w) => data.value?.cells?.some((c) => c.way === w && (c.wanted || c.pulls))),
)
const works: Record<string, string> = {
  front: $t('front brake'),
  rear: $t('rear brake'),
  both: $t('both brakes'),
  none: $t('no brake: a switch alone'),
}
const word: Record<string, string> = {
  open: $t('to do'),
  cuts: $t('cuts'),
  slow: $t('cuts late'),
  fails: $t('does not cut'),
}
const cell = (lever: string, motor: string, way: string) =>
  data.value?.cells?.find((c) => c.lever === lever && c.motor === motor && c.way === way)
const tone = (c?: Schemas['Cell']) => (!c || (c.result === 'open' && !c.wanted) ? 'none' : c.result)
</script>

<template>
  <section v-if="data?.levers?.length && ways.length" class="panel" data-test="matrix">
    <h2>{{ $t('Which lever cuts what') }}</h2>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th>{{ $t('lever') }}</th>
            <th>{{ $t('works') }}</th>
            <template v-for="m in data.motors" :key="m">
              <th v-for="w in ways" :key="w">
                {{ term(w) }}<template v-if="(data.motors?.length ?? 0) > 1">, {{ term(m) }}</template>
              </th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in data.levers" :key="l.lever">
            <td>{{ term(l.lever) }}</td>
            <td :class="{ stop: l.works === 'none' }">{{ works[l.works ?? ''] ?? $t('not said') }}</td>
            <template v-for="m in data.motors" :key="m">
              <td
                v-for="w in ways"
                :key="w"
                :class="['cell', tone(cell(l.lever, m, w))]"
                :data-cell="`${l.lever}.${m}.${w}`"
              >
                <template v-if="tone(cell(l.lever, m, w)) !== 'none'">
                  {{ word[cell(l.lever, m, w)!.result]
                  }}<span v-if="cell(l.lever, m, w)!.pulls" class="small">
                    {{ cell(l.lever, m, w)!.pulls }}×<template v-if="cell(l.lever, m, w)!.worst_ms !== null"
                      >, <span class="num">{{ cell(l.lever, m, w)!.worst_ms!.toFixed(0) }} ms</span></template
                    ><template v-if="cell(l.lever, m, w)!.brakes">{{ $t(', motor brakes') }}</template>
                  </span>
                </template>
                <template v-else>–</template>
              </td>
            </template>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.cell {
  min-width: 92px;
}
.cell .small {
  display: block;
}
.cuts {
  background: linear-gradient(var(--jade), var(--jade)) left / 4px 100% no-repeat;
  padding-left: 10px;
}
.slow,
.fails {
  background: linear-gradient(var(--plum), var(--plum)) left / 4px 100% no-repeat;
  padding-left: 10px;
  color: var(--plum-text);
  font-weight: 700;
}
.open {
  color: var(--soft);
}
</style>
