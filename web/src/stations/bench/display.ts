import { onBeforeUnmount, reactive, watch } from 'vue'
import { listen } from '@/state/stream'

/** What the simulated vehicle's own display shows; a code under 0 is a dark one. */
export function useDisplay(there: () => boolean | undefined, onLit: (lit: boolean) => void) {
  const shown = reactive({ speed: 0, code: -1 })
  const ears: ReturnType<typeof listen>[] = []
  const close = () => ears.splice(0).forEach((x) => x.stop())
  watch(
    there,
    (on) => {
      close()
      if (!on) return
      for (const kind of ['speed', 'code'] as const) {
        ears.push(
          listen({ of: 'readings', kind: `display_${kind}` }, (what, line) => {
            if (what !== 'reading') return
            shown[kind] = (line as { value: number }).value
            if (kind === 'code') onLit(shown.code >= 0)
          }),
        )
      }
    },
    { immediate: true },
  )
  onBeforeUnmount(close)
  return shown
}
