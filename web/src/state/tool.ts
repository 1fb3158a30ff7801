import { $t } from '@/lib/say'
import { onBeforeUnmount, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { listen } from './stream'

/** How long a tool is waited for, ms. */
const patience = 60_000

/** Waits for the next value that a connected tool sends. What is waited for ends with the reading that asked for it. */
export function useToolReading(got: (l: Schemas['Line']) => void, nothing: (why: string) => void) {
  const waiting = ref(false)
  let ear: ReturnType<typeof listen> | null = null
  let late = 0
  function stop() {
    clearTimeout(late)
    ear?.stop()
    ear = null
    waiting.value = false
  }
  function wait(kind: string) {
    stop()
    waiting.value = true
    late = window.setTimeout(() => {
      stop()
      nothing($t('No tool sent anything for a minute: press its key again, or type what it shows.'))
    }, patience)
    ear = listen({ of: 'readings', kind }, (what, line) => {
      if (what !== 'reading') return
      stop()
      got(line as Schemas['Line'])
    })
  }
  onBeforeUnmount(stop)
  return { waiting, wait, stop }
}
