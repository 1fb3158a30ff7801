<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { CheckState } from '@/api/client'
import { nextOpen } from '@/lib/places'
import CheckLine from './CheckLine.vue'

/** Checks one under another; the address may name the one to open. */
const props = defineProps<{ checks: readonly CheckState[] }>()
const emit = defineEmits<{ open: [check: string] }>()
const route = useRoute()
const router = useRouter()
const picked = ref<string | null>(null)
/** What is open stands in the address, so that the way back leads to it. */
function pick(id: string) {
  picked.value = picked.value === id ? null : id
  void router.replace({ query: { ...route.query, check: picked.value ?? undefined } })
}
/** The next that is open, once one was seen and is good. */
function onward(from: string) {
  if (picked.value === from) picked.value = nextOpen(props.checks, from)?.id ?? picked.value
}
watch(
  () => route.query.check,
  (c) => {
    if (typeof c !== 'string') return
    picked.value = c
    emit('open', c)
  },
  { immediate: true },
)
</script>

<template>
  <ul class="rows checks">
    <CheckLine
      v-for="c in checks"
      :key="c.id"
      :c="c"
      :picked="picked === c.id"
      @pick="pick(c.id)"
      @passed="onward(c.id)"
    />
  </ul>
</template>
