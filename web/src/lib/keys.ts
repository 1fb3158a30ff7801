import { useEventListener } from '@vueuse/core'

export interface Key {
  key: string
  does: string
  run: () => void
}

/** Single-letter keys for people at a desk; none while something is typed. */
export function useKeys(keys: Key[]): Key[] {
  useEventListener(document, 'keydown', (e: KeyboardEvent) => {
    const t = e.target as HTMLElement
    if (e.ctrlKey || e.metaKey || e.altKey || t.closest('input, select, textarea, [contenteditable]')) return
    const k = keys.find((x) => x.key === e.key)
    if (k) {
      e.preventDefault()
      k.run()
    }
  })
  return keys
}
