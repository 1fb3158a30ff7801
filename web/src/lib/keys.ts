import { useEventListener, useLocalStorage } from '@vueuse/core'

export interface Key {
  key: string
  does: string
  run: () => void
}

/** Single letters act. Off for whoever has a scanner or a calliper that types like a keyboard. */
export const keysOn = useLocalStorage('jg-keys', true)

/** Single-letter keys for people at a desk; none while something is typed or a dialog is open. */
export function useKeys(keys: Key[]): Key[] {
  useEventListener(document, 'keydown', (e: KeyboardEvent) => {
    const t = e.target as HTMLElement
    if (!keysOn.value || e.ctrlKey || e.metaKey || e.altKey) return
    if (t.closest('input, select, textarea, [contenteditable]') || document.querySelector('.v-overlay--active')) return
    const k = keys.find((x) => x.key === e.key)
    if (k) {
      e.preventDefault()
      k.run()
    }
  })
  return keys
}
