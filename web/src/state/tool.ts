import { $t } from '@/lib/say'
import { onBeforeUnmount, ref } from 'vue'
import type { Schemas } from '@/api/client'

/** How long a tool is waited for, ms. */
const patience = 60_000

/** Waits for the next value that a connected tool sends. What is waited for ends with the reading that asked for it. */
export function useToolReading(got: (l: Schemas['Line']) => void, nothing: (why: string) => void) {
  const waiting = ref(false)
  let source: EventSource | null = null
  let late = 0
  function stop() {
    clearTimeout(late)
    source?.close()
    source = null
    waiting.value = false
  }
  function wait(kind: string) {
    stop()
    waiting.value = true
    late = window.setTimeout(() => {
      stop()
      nothing($t('No tool sent anything for a minute: press its key again, or type what it shows.'))
    }, patience)
    source = new EventSource(`/api/readings?kind=${kind}`)
    const take = (e: MessageEvent<string>) => {
      stop()
      got(JSON.parse(e.data) as Schemas['Line'])
    }
    source.addEventListener('reading', (e) => take(e as MessageEvent<string>))
    source.onmessage = take
  }
  onBeforeUnmount(stop)
  return { waiting, wait, stop }
}
