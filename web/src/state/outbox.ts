import { $t } from '@/lib/say'
import { useIntervalFn } from '@vueuse/core'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { api, ApiError, sendFile, take, type Schemas } from '@/api/client'
import {
  drop,
  dropHeld,
  keep,
  keepHeld,
  keepNew,
  kept,
  keptHeld,
  onKept,
  takeOver,
  type Held,
  type Waiting,
} from './keep'
import { me, who } from './session'

/**
 * The entries of this browser that the server has not acknowledged yet, pictures among
 * them. They are kept on this machine until they are, so that neither a reload, a closed
 * tab, nor a second tab loses one. They are sent once, in the order they were made; what
 * somebody else said of the same thing in between is shown, and nobody's word is dropped
 * without being asked.
 */
export const waiting = shallowRef<Waiting[]>([])
export const held = shallowRef<Held[]>([])
const refresh = async () => {
  ;[waiting.value, held.value] = await Promise.all([kept(), keptHeld()])
}
/** The server did not answer the last time. */
export const away = ref(false)
/** Last sequence number seen of each inspection. */
const seen = reactive(new Map<string, number>())
export const lastSeen = (inspection: string) => seen.get(inspection) ?? 0
export const saw = (inspection: string, seq: number) => seen.set(inspection, Math.max(seq, lastSeen(inspection)))

/** An id of 128 random bits. (randomUUID is not there on a plain workshop network.) */
export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}

/** Entries made in this window whose field still shows them, by the clock that nobody sets, ms. */
const atHand = new Map<string, number>()
const AT_HAND_MS = 3000

/** Keeps an entry; it is on this machine's disk when this is done. */
export async function put(inspection: string, what: Schemas['EntryIn'], photo?: Blob): Promise<Waiting> {
  const w = await keepNew({
    inspection,
    // Plain values alone: what a screen watches cannot be kept.
    entry: { ...(JSON.parse(JSON.stringify(what)) as Schemas['EntryIn']), person: me.value?.id ?? '' },
    by: who.value,
    after: lastSeen(inspection),
    ...(photo ? { photo } : {}),
  })
  atHand.set(w.entry.id, performance.now())
  await refresh()
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
/** Places in the logs that entries of this window took. */
const places = new Set<string>()
/** The last place that is known of, as far as one's own entries alone came behind what was seen. */
function standsOn(w: Waiting): number {
  let at = w.after
  while (places.has(`${w.inspection} ${at + 1}`)) at++
  return at
}

function withoutPhoto(w: Waiting): Waiting {
  const rest = { ...w }
  delete rest.photo
  return rest
}

/** Sends a picture, if there is one; its entry names it from then on. */
async function sendPhoto(w: Waiting): Promise<Waiting> {
  if (!w.photo) return w
  const stored = await sendFile<Schemas['Stored']>('/api/photos', w.photo, 'application/octet-stream')
  return {
    ...withoutPhoto(w),
    entry: { ...w.entry, body: { ...(w.entry.body as object), sha256: stored.sha256 } },
  }
}

/** Sends one entry; false if the server is away. */
async function sendOne(w: Waiting): Promise<boolean> {
  for (;;) {
    try {
      w = await sendPhoto({ ...w, after: standsOn(w) })
      const r = await take(
        api.POST('/api/inspections/{id}/entries', {
          params: { path: { id: w.inspection } },
          body: { ...w.entry, ...(w.after ? { after: w.after } : {}) },
        }),
      )
      away.value = false
      mine.add(w.entry.id)
      places.add(`${w.inspection} ${r.seq}`)
      saw(w.inspection, r.seq)
      // Nobody came between: those that wait behind it stand on it.
      if (r.seq === w.after + 1) {
        for (const x of waiting.value) {
          if (x.inspection === w.inspection && x.key > w.key && x.after >= w.after && x.after < r.seq)
            await keep({ ...x, after: r.seq })
        }
      }
      fates.set(w.entry.id, { fate: 'saved', why: '' })
      await drop(w)
      return true
    } catch (e) {
      const p = e instanceof ApiError ? e : null
      if (!p || p.status === 0 || p.status >= 500 || p.status === 429 || p.status === 408) {
        away.value = true
        return false
      }
      // Signed out, or somebody else is signed in by now: it is kept until its maker is back.
      if (p.status === 401 || p.problem?.type === 'of-another') return false
      if (p.status === 409 && p.problem?.type === 'moved-on') {
        const theirs = (p.problem.between ?? []).filter((x) => !mine.has(x.id) && touches(w, x))
        if (!theirs.length) {
          w = { ...w, after: p.problem.seq ?? 0 }
          await keep(w)
          continue
        }
        await keepHeld({ item: w, theirs, refused: '' })
        fates.set(w.entry.id, { fate: 'held', why: $t('Somebody else said something of this meanwhile.') })
        return true
      }
      // What is wrong in it is said at once at the field, which still shows it; else it is kept for its maker.
      const made = atHand.get(w.entry.id)
      const shown = p.status === 422 && made !== undefined && performance.now() - made < AT_HAND_MS
      if (shown) await drop(w)
      else await keepHeld({ item: w, theirs: [], refused: p.message })
      fates.set(w.entry.id, { fate: shown ? 'refused' : 'held', why: p.message })
      return true
    } finally {
      if (fates.has(w.entry.id)) atHand.delete(w.entry.id)
    }
  }
}

let sending: Promise<void> | null = null
/** What the person who is signed in made; entries from before people signed in bear a name alone. */
const sendable = (w: Waiting) =>
  me.value !== null && (w.entry.person ? w.entry.person === me.value.id : w.by === me.value.name)
export const ofOthers = computed(() => waiting.value.filter((w) => !sendable(w)))
async function sendAll() {
  await takeOver()
  await refresh()
  for (let w = waiting.value.find(sendable); w; w = waiting.value.find(sendable)) {
    if (!(await sendOne({ ...w, entry: { ...w.entry, person: me.value!.id } }))) return
    await refresh()
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
/**
 * Has the server write a batch of its own: behind what waits here, with nothing of this window beside it, so that what is
 * said next stands on it.
 */
export async function batch(inspection: string, ask: () => Promise<Schemas['Done']>): Promise<Schemas['Done']> {
  await flush()
  while (sending) await sending
  const run = async () => {
    const done = await ask()
    for (let n = 0; n < done.entries; n++) places.add(`${inspection} ${done.seq - n}`)
    return done
  }
  const asked = navigator.locks ? navigator.locks.request('jg-outbox', run) : run()
  const over = () => {
    sending = null
    if (waiting.value.length) void flush()
  }
  sending = asked.then(over, over)
  return asked
}

export async function fateOf(w: Waiting): Promise<{ fate: Fate; why: string }> {
  await flush()
  // It may have been put while another round was ending.
  if (!fates.has(w.entry.id) && !away.value && sendable(w) && waiting.value.some((x) => x.key === w.key)) await flush()
  return fates.get(w.entry.id) ?? { fate: 'waiting', why: '' }
}

/** Settles an entry that was held: send it anew on top of what came, or leave it. */
export async function settle(h: Held, how: 'mine' | 'theirs') {
  if (how === 'mine') {
    saw(h.item.inspection, Math.max(0, ...h.theirs.map((e) => e.seq)))
    await put(h.item.inspection, { ...h.item.entry, id: newId() }, h.item.photo)
  }
  await dropHeld(h)
  await refresh()
  if (how === 'mine') await flush()
}

/** Keeps trying while something waits, and follows what other tabs do. */
export function useOutbox() {
  onKept(() => void refresh())
  useIntervalFn(() => {
    if (waiting.value.length) void flush()
  }, 3000)
  watch(me, () => void flush(), { immediate: true })
}
