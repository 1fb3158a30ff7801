import { useEventListener, useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { me, who } from './session'

/**
 * The entries of this browser that the server has not acknowledged yet. Each is
 * kept under a key of its own until it is, so that neither a reload, a closed
 * tab, nor a second tab loses one. They are sent once, in the order they were
 * made; what somebody else said of the same thing in between is shown, and
 * nobody's word is dropped without being asked.
 */
export interface Waiting {
  key: string
  inspection: string
  entry: Schemas['EntryIn']
  /** Who made it. Nobody's word is sent under another's name: it waits until they are signed in again. */
  by: string
  after: number
  since: number
}

/** An entry that was not taken: others said something meanwhile, or it was refused. */
export interface Held {
  item: Waiting
  theirs: Schemas['Entry'][]
  refused: string
}

const PREFIX = 'jg-entry:'

function read(): Waiting[] {
  return Object.keys(localStorage)
    .filter((k) => k.startsWith(PREFIX))
    .sort()
    .map((k) => JSON.parse(localStorage.getItem(k)!) as Waiting)
}

export const waiting = shallowRef<Waiting[]>(read())
export const held = useLocalStorage<Held[]>('jg-held', [])
/** The server did not answer the last time. */
export const away = ref(false)
/** Last sequence number seen of each inspection. */
const seen = reactive(new Map<string, number>())
export const saw = (inspection: string, seq: number) => seen.set(inspection, Math.max(seq, seen.get(inspection) ?? 0))

const refresh = () => (waiting.value = read())
function keep(w: Waiting) {
  localStorage.setItem(w.key, JSON.stringify(w))
  refresh()
}
function drop(w: Waiting) {
  localStorage.removeItem(w.key)
  refresh()
}

/** An id of 128 random bits. (randomUUID is not there on a plain workshop network.) */
export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}

let count = 0
export function put(inspection: string, what: Schemas['EntryIn']): Waiting {
  const entry = { ...what, person: me.value?.id ?? '' }
  const n = `${String(Date.now()).padStart(15, '0')}-${String(count++).padStart(6, '0')}`
  const w = {
    key: `${PREFIX}${n}-${entry.id}`,
    inspection,
    entry,
    by: who.value,
    after: seen.get(inspection) ?? 0,
    since: Date.now(),
  }
  keep(w)
  return w
}

/** What an entry speaks of: two entries on the same thing may contradict. */
export function topic(kind: string, body: unknown): string {
  const b = body as { path?: string; check?: string }
  if (kind === 'set') return `set ${b.path ?? ''}`
  if (kind === 'answer') return `answer ${b.check ?? ''}`
  return kind
}
function touches(mine: Waiting, e: Schemas['Entry']): boolean {
  if (e.kind === 'sign') return true
  if (!['set', 'answer'].includes(mine.entry.kind)) return false
  const a = topic(mine.entry.kind, mine.entry.body)
  const b = topic(e.kind, e.body)
  return a === b || a.startsWith(`${b}.`) || b.startsWith(`${a}.`)
}

export type Fate = 'saved' | 'waiting' | 'held' | 'refused'
const fates = new Map<string, { fate: Fate; why: string }>()
const mine = new Set<string>()

/** Sends one entry; false if the server is away. */
async function sendOne(w: Waiting): Promise<boolean> {
  for (;;) {
    try {
      const r = await take(
        api.POST('/api/inspections/{id}/entries', {
          params: { path: { id: w.inspection } },
          body: { ...w.entry, ...(w.after ? { after: w.after } : {}) },
        }),
      )
      away.value = false
      mine.add(w.entry.id)
      saw(w.inspection, r.seq)
      // Nobody came between: those that wait behind it stand on it.
      if (r.seq === w.after + 1) {
        for (const x of waiting.value) {
          if (x.inspection === w.inspection && x.key > w.key && x.after >= w.after && x.after < r.seq)
            keep({ ...x, after: r.seq })
        }
      }
      fates.set(w.entry.id, { fate: 'saved', why: '' })
      drop(w)
      return true
    } catch (e) {
      const p = e instanceof ApiError ? e : null
      if (!p || p.status === 0 || p.status >= 500) {
        away.value = true
        return false
      }
      // Signed out, or somebody else is signed in by now: it is kept until its maker is back.
      if (p.status === 401 || p.problem?.type === 'of-another') return false
      if (p.status === 409 && p.problem?.between) {
        const theirs = p.problem.between.filter((x) => !mine.has(x.id) && touches(w, x))
        if (!theirs.length) {
          w = { ...w, after: p.problem.seq! }
          keep(w)
          continue
        }
        held.value = [...held.value, { item: w, theirs, refused: '' }]
        fates.set(w.entry.id, { fate: 'held', why: 'Somebody else said something of this meanwhile.' })
      } else {
        // Refused at once, the field still shows it; refused later, it is kept here.
        if (Date.now() - w.since > 3000) held.value = [...held.value, { item: w, theirs: [], refused: p.message }]
        fates.set(w.entry.id, { fate: 'refused', why: p.message })
      }
      drop(w)
      return true
    }
  }
}

let sending: Promise<void> | null = null
/** What the person who is signed in made; entries of a browser from before people signed in bear a name alone. */
const sendable = (w: Waiting) =>
  me.value !== null &&
  (w.entry.person ? w.entry.person === me.value.id : ((w.entry as { by?: string }).by ?? w.by) === me.value.name)
export const ofOthers = computed(() => waiting.value.filter((w) => !sendable(w)))
async function sendAll() {
  for (let w = waiting.value.find(sendable); w; w = waiting.value.find(sendable)) {
    if (!w.entry.person) {
      const { id, kind, body, instrument } = w.entry
      w = { ...w, entry: { id, kind, body, instrument, person: me.value!.id } }
      keep(w)
    }
    if (!(await sendOne(w))) return
  }
}
/** Sends what waits; one tab at a time where the browser can tell. */
export function flush(): Promise<void> {
  sending ??= locked().finally(() => (sending = null))
  return sending
}
async function locked(): Promise<void> {
  if (navigator.locks) await navigator.locks.request('jg-outbox', sendAll)
  else await sendAll()
}

export async function fateOf(w: Waiting): Promise<{ fate: Fate; why: string }> {
  await flush()
  // It may have been put while another round was ending.
  if (!fates.has(w.entry.id) && !away.value && sendable(w) && waiting.value.some((x) => x.key === w.key)) await flush()
  return fates.get(w.entry.id) ?? { fate: 'waiting', why: '' }
}

/** Settles an entry that was held: send it anew on top of what came, or leave it. */
export async function settle(h: Held, how: 'mine' | 'theirs') {
  held.value = held.value.filter((x) => x.item.key !== h.item.key)
  if (how === 'theirs') return
  saw(h.item.inspection, Math.max(0, ...h.theirs.map((e) => e.seq)))
  put(h.item.inspection, { ...h.item.entry, id: newId() })
  await flush()
}

/** Keeps trying while something waits, and follows what other tabs do. */
export function useOutbox() {
  useEventListener(window, 'storage', refresh)
  useIntervalFn(() => {
    if (waiting.value.length) void flush()
  }, 3000)
  watch(me, () => void flush(), { immediate: true })
}
