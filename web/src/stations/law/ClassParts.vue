<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { term } from '@/lib/words'
import { useInspection } from '@/state/inspection'
import SheetList from '@/parts/SheetList.vue'

/** What makes a class: a speedometer, a lamp, a trailer. Each is seen and photographed by itself. */
const props = defineProps<{ law: Schemas['LawTable'] }>()
const { view } = useInspection()
const wanted = computed(() => {
  const there = (view.value?.sheet.equipment ?? []).map((e) => e.what)
  const here = props.law.places.find((p) => p.role === 'place')?.classes ?? []
  const all = here.flatMap((k) => k.requirements.filter((r) => r.id === 'equipment').map((r) => r.what))
  return [...new Set(all)].filter((w) => !there.includes(w))
})
const name = (e: Record<string, unknown>) => term(String(e.what))
</script>

<template>
  <SheetList
    v-if="wanted.length || view?.sheet.equipment?.length"
    list="equipment"
    test="class-parts"
    :title="$t('What makes the class')"
    :hint="$t('seen and photographed one by one')"
    :name="name"
    :fields="['there']"
    photo
    :adds="
      wanted.map((w) => ({
        label: $t('Seen: {part}', { part: term(w) }),
        item: { what: w, there: { value: 'yes', source: 'seen' } },
        test: `class-part-${w}`,
      }))
    "
  />
</template>
