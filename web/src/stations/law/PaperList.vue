<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import { term } from '@/lib/words'
import { useInspection } from '@/state/inspection'
import SheetList from '@/parts/SheetList.vue'

/** Papers on file: each with its number, its day, the class that it names, and a photo. */
const { view } = useInspection()
const place = computed(() => view.value?.sheet.use.place ?? '')
const kinds = ['type_approval', 'registration', 'plate', 'insurance', 'certificate', 'declaration']
const name = (p: Record<string, unknown>) => `${term(String(p.kind))} ${String(p.number ?? '')}`
</script>

<template>
  <SheetList
    list="papers"
    test="papers"
    :title="$t('Papers')"
    :hint="$t('a paper counts with its number, its day of issue after the conversion, and a photo')"
    :name="name"
    :fields="['number', 'issued', 'until', 'class', 'standard']"
    photo
    :adds="
      kinds.map((k) => ({
        label: $t('Add: {paper}', { paper: term(k) }),
        item: { kind: k, pack: place, class: view?.sheet.use.intended ?? '' },
        test: `paper-${k}`,
      }))
    "
  />
</template>
