<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { term } from '@/lib/words'
import SheetList from '@/parts/SheetList.vue'

/** Papers on file: those that the class asks, each with its number, its day and a photo. */
const props = defineProps<{ advice: Schemas['LawAdvice']; place: string }>()
const kinds = computed(() => [...new Set([...props.advice.papers.map((p) => p.kind), ...props.advice.settles])])
const named = computed(() => Object.fromEntries(props.advice.choice.map((c) => [c.class, c.name])))
const name = (p: Record<string, unknown>) =>
  [term(String(p.kind)), p.number, named.value[String(p.class)] ?? p.class].filter(Boolean).join(', ')
</script>

<template>
  <SheetList
    list="papers"
    test="papers"
    :title="$t('Papers')"
    :hint="$t('a paper counts with its number, its day of issue after the conversion, and a photo')"
    :name="name"
    :fields="['number', 'issued', 'until']"
    photo
    :adds="
      kinds.map((k) => ({
        label: $t('On file: {paper}', { paper: term(k) }),
        item: { kind: k, pack: place, class: advice.class },
        test: `paper-${k}`,
      }))
    "
  />
</template>
