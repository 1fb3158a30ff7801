import { Connection, type Told, type Topic } from './connection'

/** What windows ask of the worker, and what it tells them. */
export type Asked = { put: string; topic: Topic } | { drop: string } | { again: true } | { alive: true } | { bye: true }
export type Answer = { told: Told } | { open: boolean }

/** A window that says nothing for so long is gone; one in the background speaks once a minute. */
const GONE_MS = 150_000

interface Window {
  port: MessagePort
  keys: Set<string>
  heard: number
}
const windows = new Set<Window>()
const connection = new Connection(
  (told) => {
    for (const w of windows) if (!told.key || w.keys.has(told.key)) w.port.postMessage({ told } satisfies Answer)
  },
  (open) => {
    for (const w of windows) w.port.postMessage({ open } satisfies Answer)
  },
)
function forget(w: Window) {
  windows.delete(w)
  for (const key of w.keys) connection.drop(key)
}

;(self as unknown as { onconnect: (e: MessageEvent) => void }).onconnect = (e) => {
  const port = e.ports[0]!
  const w: Window = { port, keys: new Set(), heard: Date.now() }
  windows.add(w)
  port.onmessage = ({ data }: MessageEvent<Asked>) => {
    w.heard = Date.now()
    if ('put' in data) {
      windows.add(w) // it may have been taken for gone
      w.keys.add(data.put)
      connection.put(data.put, data.topic)
    } else if ('drop' in data) {
      w.keys.delete(data.drop)
      connection.drop(data.drop)
    } else if ('again' in data) connection.again()
    else if ('bye' in data) forget(w)
  }
  port.postMessage({ open: connection.open } satisfies Answer)
}
setInterval(() => {
  for (const w of windows) if (Date.now() - w.heard > GONE_MS) forget(w)
}, 30_000)
