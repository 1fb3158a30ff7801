import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import type { Schemas } from '@/api/client'

/** An entry that the server has not acknowledged yet. */
export interface Waiting {
  /** Orders the entries as they were made, whatever the clock says. */
  key: string
  inspection: string
  entry: Schemas['EntryIn']
  /** Who made it. Nobody's word is sent under another's name: it waits until they are signed in again. */
  by: string
  after: number
  /** A picture that goes before its entry, which then names it. */
  photo?: Blob
}

/** An entry that was not taken: others said something meanwhile, or it was refused. */
export interface Held {
  item: Waiting
  theirs: Schemas['Entry'][]
  refused: string
}

interface Keep extends DBSchema {
  outbox: { key: string; value: Waiting }
  held: { key: string; value: Held }
  counter: { key: string; value: number }
}

let db: Promise<IDBPDatabase<Keep>> | null = null
const open = () =>
  (db ??= openDB<Keep>('jadegate', 2, {
    upgrade: (d, from) => {
      if (from < 1) d.createObjectStore('outbox', { keyPath: 'key' })
      d.createObjectStore('held', { keyPath: 'item.key' })
      d.createObjectStore('counter')
    },
    // A window of another edition waits to change the store: this one reads anew when it next asks.
    blocking: (_from, _to, e) => {
      ;(e.target as IDBDatabase).close()
      db = null
    },
    terminated: () => (db = null),
  }))

/** Other windows of this browser work from the same store. */
const windows = new BroadcastChannel('jg-outbox')
export const onKept = (then: () => void) => windows.addEventListener('message', then)

/** An entry's number as its key begins with it; those of an earlier edition are times, ms. */
const numberOf = (key: string) => Number(key.split('-')[0]) || 0

/** Keeps an entry behind all that were made here before. */
export async function keepNew(w: Omit<Waiting, 'key'>): Promise<Waiting> {
  const d = await open()
  const tx = d.transaction(['outbox', 'counter'], 'readwrite', { durability: 'strict' })
  const outbox = tx.objectStore('outbox')
  const last = (await outbox.openKeyCursor(null, 'prev'))?.key ?? ''
  const n = Math.max((await tx.objectStore('counter').get('last')) ?? 0, numberOf(last)) + 1
  const made = { ...w, key: `${String(n).padStart(15, '0')}-${w.entry.id}` }
  await Promise.all([tx.objectStore('counter').put(n, 'last'), outbox.put(made), tx.done])
  windows.postMessage(made.key)
  return made
}
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
/** Takes an entry out of what waits and holds it for a person: it is in one or the other. */
export async function keepHeld(h: Held) {
  const d = await open()
  const tx = d.transaction(['outbox', 'held'], 'readwrite', { durability: 'strict' })
  await Promise.all([tx.objectStore('held').put(h), tx.objectStore('outbox').delete(h.item.key), tx.done])
  windows.postMessage(h.item.key)
}
export async function dropHeld(h: Held) {
  await (await open()).delete('held', h.item.key)
  windows.postMessage(h.item.key)
}

/** What waits, in its order. */
export const kept = async (): Promise<Waiting[]> => (await open()).getAll('outbox')
/** What is held for a person to decide. */
export const keptHeld = async (): Promise<Held[]> => (await open()).getAll('held')

const OLD = 'jg-entry:'
const OLD_HELD = 'jg-held'

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
  for (const h of JSON.parse(localStorage.getItem(OLD_HELD) ?? '[]') as Held[]) await keepHeld(h)
  localStorage.removeItem(OLD_HELD)
}
