<script setup lang="ts">
import { $t } from '@/lib/say'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { date, minutes, verdictWord } from '@/lib/words'
import type { useBoard } from '@/state/board'
import GateMark from '@/parts/GateMark.vue'
import StateNote from '@/parts/StateNote.vue'

/** The vehicles of one of the board's lists: what stands here, or what was signed. */
const props = defineProps<{ list: ReturnType<typeof useBoard>; signed: boolean; empty: string }>()
const router = useRouter()
const { lines, isPending, known, hasMore, isFetchingMore, more } = props.list
const place = (s: Schemas['Summary']) => (props.signed ? `/i/${s.id}/verdict` : `/i/${s.id}`)
const kindWord = (s: Schemas['Summary']) =>
  ({ bicycle: $t('bicycle'), delta: $t('delta trike'), tadpole: $t('tadpole trike') })[s.kind] ?? s.kind
const columns: { name: string; num?: true; roomy?: true }[] = props.signed
  ? [{ name: $t('vehicle') }, { name: $t('number') }, { name: $t('signed') }, { name: $t('recheck') }]
  : [
      { name: $t('vehicle') },
      { name: $t('number') },
      { name: $t('bay'), roomy: true },
      { name: $t('brought by'), roomy: true },
      { name: $t('next') },
      { name: $t('left to do'), num: true },
    ]
</script>

<template>
  <div v-if="lines.length" class="scroll">
    <table>
      <thead>
        <tr>
          <th>
            <span class="sr">{{ $t('verdict') }}</span>
          </th>
          <th v-for="c in columns" :key="c.name" :class="{ num: c.num, roomy: c.roomy }">
            {{ c.name }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in lines" :key="s.id" :data-test="`row-${s.id}`" @click="router.push(place(s))">
          <td class="m"><GateMark :state="s.verdict" :size="32" :label="verdictWord[s.verdict]" /></td>
          <td>
            <RouterLink :to="place(s)"
              ><b>{{ s.name }}</b></RouterLink
            >
            <div class="small">{{ kindWord(s) }} · {{ verdictWord[s.verdict] }}</div>
          </td>
          <td class="num left">{{ s.number }}</td>
          <template v-if="signed">
            <td>{{ s.signed }}, {{ date(s.signed_at) }}</td>
            <td :class="{ attend: s.due }">{{ s.due ? date(s.due) : '–' }}</td>
          </template>
          <template v-else>
            <td class="num left roomy">{{ s.bay || '–' }}</td>
            <td class="roomy">{{ s.brought }}</td>
            <td>{{ s.next }}</td>
            <td class="num">
              {{
                s.unsettled
                  ? $t('{unsettled} checks, {minutes}', { unsettled: s.unsettled, minutes: minutes(s.minutes) })
                  : $t('ready to sign')
              }}
            </td>
          </template>
        </tr>
      </tbody>
    </table>
  </div>
  <StateNote :loading="isPending && $t('Loading the board…')" :empty="known && !lines.length && empty" />
  <button v-if="hasMore" type="button" class="plain" :disabled="isFetchingMore" data-test="more" @click="more">
    {{ signed ? $t('Show earlier ones') : $t('Show more') }}
  </button>
</template>

<style scoped>
tbody tr {
  cursor: pointer;
}
tbody tr:hover td {
  background: var(--jade-pale);
}
td {
  padding: 11px 12px 11px 0;
}
.m {
  width: 50px;
  padding-left: 4px;
}
td.left {
  text-align: left;
}
td.num {
  white-space: nowrap;
}
a {
  text-decoration: none;
}
@media (max-width: 700px) {
  .roomy {
    display: none;
  }
}
</style>
