import { Connection, type Told, type Topic } from './connection'

/** What windows ask of the worker, and what it tells them. */
export type Asked = { put: string; topic: Topic } | { drop: string } | { again: true } | { alive: true } | { bye: true }
export type Answer = { told: Told } | { open: boolean } | { forgotten: true }

/**
 * A window that says nothing for so long is taken for gone. One in the background speaks once a minute, and not at all
 * where the browser has laid it to rest: when it speaks again it is told to say anew what it listens to.
 */
const GONE_MS = 150_000

interface Listener {
  port: MessagePort
  keys: Set<string>
  heard: number
}
const windows = new Set<Listener>()
const connection = new Connection(
  (told) => {
    for (const w of windows) if (!told.key || w.keys.has(told.key)) w.port.postMessage({ told } satisfies Answer)
  },
  (open) => {
    for (const w of windows) w.port.postMessage({ open } satisfies Answer)
  },
)
function forget(w: Listener) {
  windows.delete(w)
  for (const key of w.keys) connection.drop(key)
  w.keys.clear()
}

;(self as unknown as { onconnect: (e: MessageEvent) => void }).onconnect = (e) => {
  const port = e.ports[0]!
  const w: Listener = { port, keys: new Set(), heard: Date.now() }
  windows.add(w)
  port.onmessage = ({ data }: MessageEvent<Asked>) => {
    w.heard = Date.now()
    if ('bye' in data) return forget(w)
    if (!windows.has(w)) {
      windows.add(w)
      port.postMessage({ forgotten: true } satisfies Answer)
      port.postMessage({ open: connection.open } satisfies Answer)
    }
    if ('put' in data) {
      w.keys.add(data.put)
      connection.put(data.put, data.topic)
    } else if ('drop' in data) {
      w.keys.delete(data.drop)
      connection.drop(data.drop)
    } else if ('again' in data) connection.again()
  }
  port.postMessage({ open: connection.open } satisfies Answer)
}
setInterval(() => {
  for (const w of windows) if (Date.now() - w.heard > GONE_MS) forget(w)
}, 30_000)
