<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { CheckState } from '@/api/client'
import CheckLine from './CheckLine.vue'

/** Checks one under another; the address may name the one to open. */
defineProps<{ checks: readonly CheckState[] }>()
const emit = defineEmits<{ open: [check: string] }>()
const route = useRoute()
const picked = ref<string | null>(null)
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
      @pick="picked = picked === c.id ? null : c.id"
    />
  </ul>
</template>
