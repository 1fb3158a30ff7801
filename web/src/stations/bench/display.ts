import { onBeforeUnmount, reactive, watch } from 'vue'

/** What the simulated vehicle's own display shows; a code under 0 is a dark one. */
export function useDisplay(there: () => boolean | undefined, onLit: (lit: boolean) => void) {
  const shown = reactive({ speed: 0, code: -1 })
  const sources: EventSource[] = []
  const close = () => sources.splice(0).forEach((x) => x.close())
  watch(
    there,
    (on) => {
      close()
      if (!on) return
      for (const kind of ['speed', 'code'] as const) {
        const x = new EventSource(`/api/readings?kind=display_${kind}`)
        const read = (e: Event) => {
          shown[kind] = JSON.parse((e as MessageEvent<string>).data).value
          if (kind === 'code') onLit(shown.code >= 0)
        }
        x.addEventListener('reading', read)
        x.onmessage = read
        sources.push(x)
      }
    },
    { immediate: true },
  )
  onBeforeUnmount(close)
  return shown
}
