<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import ActButton from './ActButton.vue'
import ReadingDock from './ReadingDock.vue'
import ReadingField from './ReadingField.vue'

/**
 * The reading that a station wants next. One that is being saved stays until its outcome is told; if that fails,
 * until somebody goes on.
 */
interface Reading {
  path: string
  title: string
}
const props = defineProps<{ wanted?: Reading; chosen?: Reading | null; of?: string | null }>()
const emit = defineEmits<{ onward: [] }>()
const held = ref<Reading | null>(null)
const shown = computed(() => held.value ?? props.chosen ?? props.wanted)
const next = computed(() => (held.value && props.wanted?.path !== held.value.path ? props.wanted : undefined))
watch([() => props.chosen?.path, () => props.of], () => (held.value = null))
function onward() {
  held.value = null
  emit('onward')
}
</script>

<template>
  <ReadingDock v-if="shown" :title="shown.title">
    <template #head><slot name="head" :path="shown.path" /></template>
    <ReadingField :path="shown.path" :title="shown.title" @saving="held = shown" @saved="onward" />
    <ActButton v-if="next" variant="text" data-test="onward" @click="onward">{{
      $t('Go on to: {title}', { title: next.title })
    }}</ActButton>
    <slot />
  </ReadingDock>
</template>
