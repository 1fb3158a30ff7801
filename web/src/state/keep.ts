import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import type { Schemas } from '@/api/client'

/** An entry that the server has not acknowledged yet. */
export interface Waiting {
  /** Orders the entries as they were made. */
  key: string
  inspection: string
  entry: Schemas['EntryIn']
  /** Who made it. Nobody's word is sent under another's name: it waits until they are signed in again. */
  by: string
  after: number
  since: number
  /** A picture that goes before its entry, which then names it. */
  photo?: Blob
}

interface Keep extends DBSchema {
  outbox: { key: string; value: Waiting }
}

let db: Promise<IDBPDatabase<Keep>> | null = null
const open = () =>
  (db ??= openDB<Keep>('jadegate', 1, {
    upgrade: (d) => void d.createObjectStore('outbox', { keyPath: 'key' }),
    terminated: () => (db = null),
  }))

/** Other windows of this browser work from the same store. */
const windows = new BroadcastChannel('jg-outbox')
export const onKept = (then: () => void) => windows.addEventListener('message', then)

export async function keep(w: Waiting) {
  const d = await open()
  const tx = d.transaction('outbox', 'readwrite', { durability: 'strict' })
  await Promise.all([tx.store.put(w), tx.done])
  windows.postMessage(w.key)
}
export async function drop(w: Waiting) {
  await (await open()).delete('outbox', w.key)
  windows.postMessage(w.key)
}

/** What waits, in its order. */
export const kept = async (): Promise<Waiting[]> => (await open()).getAll('outbox')

const OLD = 'jg-entry:'

/**
 * Takes what an earlier edition kept beside the store into it. One window at a time: a second
 * one could put back what the first has sent by then.
 */
export async function takeOver() {
  for (const k of Object.keys(localStorage)
    .filter((k) => k.startsWith(OLD))
    .sort()) {
    const old = JSON.parse(localStorage.getItem(k)!) as Waiting & { entry: { by?: string } }
    const { by = '', ...entry } = old.entry
    await keep({ ...old, key: k.slice(OLD.length), by: old.by || by, entry })
    localStorage.removeItem(k)
  }
}
