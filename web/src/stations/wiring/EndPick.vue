<script setup lang="ts">
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { at } from '@/lib/sheet'
import { called, ends } from './harness'

/** One end of a lead: a pack, the combiner, a joint, a controller or a motor of this vehicle. */
const props = defineProps<{ path: string; title: string }>()
const { view, set, locked } = useInspection()
const now = computed(() => (at(view.value?.sheet, props.path) as string | undefined) ?? '')
const choices = computed(() => {
  const all = view.value ? ends(view.value.sheet) : []
  return now.value && !all.includes(now.value) ? [...all, now.value] : all
})
</script>

<template>
  <label class="field">
    <span>{{ title }}</span>
    <select
      :value="now"
      :disabled="locked"
      :data-path="path"
      @change="set(path, ($event.target as HTMLSelectElement).value)"
    >
      <option value="" disabled>{{ $t('choose') }}</option>
      <option v-for="e in choices" :key="e" :value="e">{{ called(e) }}</option>
    </select>
  </label>
</template>
