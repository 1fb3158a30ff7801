import { shallowRef } from 'vue'

/** What was just done and can be undone, for as long as it is offered. */
export const offered = shallowRef<{ words: string; undo: () => Promise<unknown> } | null>(null)

/** How long it is offered, ms. */
const offer = 30_000
let end = 0

export function offerUndo(words: string, undo: () => Promise<unknown>) {
  clearTimeout(end)
  offered.value = { words, undo }
  end = window.setTimeout(() => (offered.value = null), offer)
}

export async function undo() {
  const o = offered.value
  offered.value = null
  await o?.undo()
}
