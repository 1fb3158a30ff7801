import { useElementSize } from '@vueuse/core'
import { computed, type ShallowRef } from 'vue'

/** How wide a drawing is drawn: as wide as its place, so that its words keep their size on a phone. */
export function useDrawnWidth(el: Readonly<ShallowRef<SVGElement | HTMLElement | null>>, usual: number, least = 280) {
  const { width } = useElementSize(el)
  return computed(() => (width.value ? Math.max(least, Math.min(usual, Math.round(width.value))) : usual))
}
