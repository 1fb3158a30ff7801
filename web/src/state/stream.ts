import { ref, watch } from 'vue'
import { Connection, type Told, type Topic } from './connection'
import { me } from './session'
import type { Answer, Asked } from './stream.worker'

/** The server is heard. */
export const open = ref(false)

const told = new Map<string, (kind: string, data: unknown) => void>()
const topics = new Map<string, Topic>()
function hand(m: Told) {
  if (m.key) told.get(m.key)?.(m.kind, m.data)
}

let ask: ((a: Asked) => void) | null = null
function start() {
  if (typeof SharedWorker === 'undefined') {
    const c = new Connection(hand, (now) => (open.value = now))
    ask = (a) => {
      if ('put' in a) c.put(a.put, a.topic)
      else if ('drop' in a) c.drop(a.drop)
      else if ('again' in a) c.again()
    }
  } else {
    const worker = new SharedWorker(new URL('./stream.worker.ts', import.meta.url), {
      type: 'module',
      name: 'jade-gate-stream',
    })
    worker.port.onmessage = ({ data }: MessageEvent<Answer>) => {
      if ('told' in data) hand(data.told)
      else if ('open' in data) open.value = data.open
      else for (const [put, topic] of topics) ask!({ put, topic })
    }
    ask = (a) => worker.port.postMessage(a)
    const alive = () => ask!({ alive: true })
    setInterval(alive, 20_000)
    addEventListener('pagehide', () => ask!({ bye: true }))
    for (const back of ['resume', 'visibilitychange']) document.addEventListener(back, alive)
    addEventListener('pageshow', alive)
  }
  watch(
    () => me.value?.id,
    (now, before) => now && before && ask!({ again: true }), // under the name of who is here now
  )
}

let count = 0
const own = Array.from(crypto.getRandomValues(new Uint8Array(6)), (b) => b.toString(16).padStart(2, '0')).join('')
/** Listens to a topic until it is stopped; what it is about may change meanwhile. */
export function listen(topic: Topic, on: (kind: string, data: unknown) => void) {
  if (!ask) start()
  const key = `${own}-${++count}`
  const put = (t: Topic) => {
    if (!told.has(key)) return // it was stopped
    topics.set(key, t)
    ask!({ put: key, topic: t })
  }
  told.set(key, on)
  put(topic)
  return {
    change: put,
    stop() {
      told.delete(key)
      topics.delete(key)
      ask!({ drop: key })
    },
  }
}
