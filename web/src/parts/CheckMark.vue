<script setup lang="ts">
import { computed } from 'vue'
import type { CheckState } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { outcomeMark, outcomeWord } from '@/lib/words'
import GateMark from './GateMark.vue'

const props = defineProps<{ c: CheckState; size?: number }>()
const { evaluation } = useInspection()
/** The worst severity that stands against the check, after any overrule. */
const severity = computed(() => {
  const own = evaluation.value?.findings.filter((f) => f.check === props.c.id) ?? []
  return own[0]?.severity ?? props.c.severity
})
const state = computed(() => outcomeMark(props.c.outcome, severity.value))
</script>

<template>
  <GateMark :state="state" :size="size ?? 26" :label="outcomeWord(c.outcome, c.kind)" />
</template>
