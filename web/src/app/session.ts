import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

/** Who is at this screen, and how it looks here. Kept in this browser alone. */
export const who = useLocalStorage('jg-who', 'Maren Tide')
export const shade = useLocalStorage<'auto' | 'light' | 'dark'>('jg-shade', 'auto')

/** Metric or US customary units on this screen; what is stored never changes. */
export const units = useLocalStorage<'metric' | 'us'>('jg-units', 'metric')

/** The tool in hand for each unit: picked by a person, and kept until it is put down. */
export const hand = useLocalStorage<Record<string, string>>('jg-hand', {})
/** Where words, and figures that no tool reads, come from: kept in the same place. */
/** A field and its twins on the other side, wheel, pack or lead: where one is read, so is the other. */
export const twins = (path: string) => path.replace(/\d+/g, '#').replace(/(^|\.)(left|right|front|rear)(?=\.)/g, '$1*')
export const tellers = (figure: boolean) => (figure ? 'told figures' : 'told words')

const prefersDark = usePreferredDark()
export const dark = computed(() => (shade.value === 'auto' ? prefersDark.value : shade.value === 'dark'))
watchEffect(() => {
  document.documentElement.dataset.shade = dark.value ? 'dark' : 'light'
})
