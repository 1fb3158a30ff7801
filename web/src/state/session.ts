import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

/** Who is at this screen, and how it looks here. Kept in this browser alone. */
export const who = useLocalStorage('jg-who', 'Maren Tide')
export const shade = useLocalStorage<'auto' | 'light' | 'dark'>('jg-shade', 'auto')

/** Metric or US customary units on this screen; what is stored never changes. */
export const units = useLocalStorage<'metric' | 'us'>('jg-units', 'metric')

/**
 * What is in hand: the tool for each unit, and where words and figures that no tool
 * reads come from. Picked by a person, and kept until it is put down.
 */
export const hand = useLocalStorage<Record<string, string>>('jg-hand', {})

const prefersDark = usePreferredDark()
export const dark = computed(() => (shade.value === 'auto' ? prefersDark.value : shade.value === 'dark'))
watchEffect(() => {
  document.documentElement.dataset.shade = dark.value ? 'dark' : 'light'
})
