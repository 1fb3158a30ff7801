<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { printOnly } from '@/lib/print'
import { useInspection } from '@/state/inspection'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'

/** The sheet that goes with the vehicle to whoever rides it, from the record, in plain words. */
const { id, view } = useInspection()
const open = ref(false)
const { data: sheet, error } = useQuery({
  queryKey: computed(() => ['handover', id, view.value?.seq]),
  queryFn: () => take(api.GET('/api/inspections/{id}/handover', { params: { path: { id } } })),
  enabled: open,
})
</script>

<template>
  <section class="panel" data-test="rider-sheet">
    <header>
      <h2>{{ $t('For the rider') }}</h2>
      <span class="small">{{ $t('what goes with the vehicle') }}</span>
    </header>
    <StateNote :error="error" />
    <ActButton v-if="!open" data-test="rider-sheet-open" @click="open = true">{{ $t('Rider’s sheet') }}</ActButton>
    <template v-else-if="sheet">
      <article class="paper" data-print="rider">
        <h3>{{ sheet.vehicle }}</h3>
        <p>
          <b>{{ sheet.words }}</b>{{
            $t('. Inspection {number}{sheet}.', {
              number: sheet.number,
              sheet: sheet.signed ? $t(', signed by {signed}', { signed: sheet.signed }) : $t(', not signed'),
            })
          }}
        </p>
        <section v-for="p in sheet.parts" :key="p.title">
          <h4>{{ p.title }}</h4>
          <ul>
            <li v-for="l in p.lines" :key="l">{{ l }}</li>
          </ul>
        </section>
        <p class="small">{{ $t('Record {hash}', { hash: sheet.hash }) }}</p>
      </article>
      <ActButton data-test="rider-sheet-print" @click="printOnly('rider')">{{ $t('Print it') }}</ActButton>
    </template>
  </section>
</template>

<style scoped>
.paper {
  max-width: 62ch;
}
h4 {
  margin: 12px 0 2px;
}
ul {
  margin: 0;
  padding-left: 20px;
}
</style>
