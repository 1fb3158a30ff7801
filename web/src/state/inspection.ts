import { $t } from '@/lib/say'
import { until, useIntervalFn } from '@vueuse/core'
import { computed, inject, nextTick, onScopeDispose, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { useRoute } from 'vue-router'
import { api, ApiError, take, type Schemas, type View } from '@/api/client'
import * as outbox from './outbox'
import { may, me } from './session'
import * as stream from './stream'
import { spoken } from './units'
import { changed } from '@/lib/change'
import { at } from '@/lib/sheet'

/** What stands behind an entry beside the session. */
export type Proof = Pick<Schemas['EntryIn'], 'password' | 'code' | 'second'>
type Kind = Schemas['EntryIn']['kind']

/**
 * One inspection on this screen: its state as the server last gave it, and the
 * way to say something about it.
 */
export function provideInspection(id: string) {
  /** As the server last gave it; screens see its sentences in their own units. */
  const told = shallowRef<View | null>(null)
  const view = computed(() => spoken(told.value))
  const problem = ref<string | null>(null)
  const savedAt = ref<Date | null>(null)
  const broken = ref(false)
  const away = computed(() => (broken.value || outbox.away.value) && view.value !== null)
  const waiting = computed(() => outbox.waiting.value.filter((w) => w.inspection === id))
  const held = computed(() => outbox.held.value.filter((h) => h.item.inspection === id))

  const route = useRoute()
  const place = computed(() => route.path.split('/').slice(3).join('/'))
  const screen = outbox.newId()
  const others = shallowRef<Schemas['Present'][]>([])
  const heard = ref(Date.now())
  const topic = () => ({ of: 'inspection', id, screen, place: place.value }) as const
  const ear = stream.listen(topic(), hear)
  const listenAgain = () => setTimeout(() => !missing.value && ear.change(topic()), 2000)
  onScopeDispose(ear.stop)
  watch(place, (at) => {
    void api
      .POST('/api/inspections/{id}/here', { params: { path: { id } }, body: { screen, place: at } })
      .catch(() => {})
  })
  // A server that hangs keeps its connections: what says nothing for two beats is away.
  useIntervalFn(() => {
    if (stream.open.value && Date.now() - heard.value > 4000) broken.value = true
  }, 500)
  function hear(kind: string, d: unknown) {
    heard.value = Date.now()
    if (outbox.away.value) {
      outbox.away.value = false // it is heard: what waits may go
      void outbox.flush()
    }
    if (kind === 'change') {
      const c = d as Schemas['ViewChange']
      if (told.value && told.value.seq > c.from && told.value.seq >= c.seq) return // read whole meanwhile
      if (told.value?.seq !== c.from) return void readAgain() // one was missed
      const v = changed(told.value, c)
      outbox.saw(id, v.seq)
      told.value = v
      return
    }
    if (kind === 'ended') return void readLast().then(listenAgain) // it is not there, or not for who asks
    broken.value = false
    if (kind === 'at')
      return void reading.then(() => (told.value?.seq === (d as Schemas['At']).seq ? undefined : readAgain()))
    if (kind === 'here')
      others.value = (d as Schemas['Here']).people.filter(
        (p) => p.screen !== screen && p.name !== me.value?.name, // one's own other windows are no company
      )
  }
  /** The whole of it: at first, and where a change does not fit what this screen has. */
  async function readAgain() {
    const v = await take(api.GET('/api/inspections/{id}', { params: { path: { id } } })).catch(() => null)
    if (!v) {
      if (stream.open.value) setTimeout(() => void readAgain(), 1000)
      return
    }
    if (told.value && v.seq < told.value.seq) return
    outbox.saw(id, v.seq)
    told.value = v
  }
  // Out of reach: what was last read of it, if this browser has been here before.
  const missing = ref(false)
  /** Why it cannot be shown, though the server is there. */
  const refused = ref('')
  async function readLast() {
    const v = await take(api.GET('/api/inspections/{id}', { params: { path: { id } } })).catch((e: ApiError) => {
      missing.value = e.status === 404
      refused.value = e.status === 500 ? (e.problem?.detail ?? '') : ''
      return null
    })
    if (v && !told.value) {
      outbox.saw(id, v.seq)
      told.value = v
    }
  }
  watch(stream.open, (open) => {
    broken.value = !open
    if (!open) return void readLast()
    heard.value = Date.now()
    outbox.away.value = false
    void outbox.flush()
  })
  // Read beside: by a server that hangs, what is kept of it comes at once.
  const reading = readLast()
  setTimeout(() => (broken.value ||= !stream.open.value), 1500)

  const underWay = new Set<Promise<unknown>>()
  /** Says one thing about the inspection; true when it is on the server's disk. */
  function say(kind: Kind, body: unknown, instrument?: string, photo?: Blob): Promise<boolean> {
    problem.value = null
    const said = handIn(kind, body, instrument, photo)
    underWay.add(said)
    return said.finally(() => underWay.delete(said))
  }
  async function handIn(kind: Kind, body: unknown, instrument?: string, photo?: Blob): Promise<boolean> {
    let item
    try {
      item = await outbox.put(id, { id: outbox.newId(), kind, body, instrument }, photo)
    } catch {
      problem.value = $t(
        'This browser has no room to keep what is entered: nothing was written. Free some, or use another.',
      )
      return false
    }
    const { fate, why } = await outbox.fateOf(item)
    if (fate === 'saved') savedAt.value = new Date()
    if (fate === 'refused') problem.value = why
    return fate === 'saved'
  }

  /**
   * Says something that a password stands behind. It is sent now or not at all: a password is kept nowhere, so that
   * it cannot wait here for a server that is away.
   */
  async function sayProven(kind: Kind, body: unknown, proof: Proof, eid = outbox.newId()): Promise<string> {
    await outbox.flush()
    try {
      const r = await take(
        api.POST('/api/inspections/{id}/entries', {
          params: { path: { id } },
          body: { id: eid, person: me.value?.id, kind, body, ...proof },
        }),
      )
      outbox.saw(id, r.seq)
      savedAt.value = new Date()
      return ''
    } catch (e) {
      return e instanceof ApiError && e.status === 0
        ? $t('The server is away: nothing was written.')
        : (e as Error).message
    }
  }

  const set = (path: string, value: unknown, instrument?: string) => say('set', { path, value }, instrument)
  /** What waits here for a list, or for something in it. */
  const waitsFor = (list: string) =>
    waiting.value
      .filter((w) => w.entry.kind === 'set')
      .map((w) => (w.entry.body as { path: string }).path)
      .filter((p) => p === list || p.startsWith(`${list}.`))
  /**
   * A list is changed as a whole only on top of all that was said in it: comes back once this window's own entries
   * are in the view; false, with the reason, while one of the list's still waits for the server.
   */
  async function settled(list: string): Promise<boolean> {
    await Promise.allSettled(underWay)
    if (waitsFor(list).length) await outbox.flush()
    if (waitsFor(list).length) {
      problem.value = $t('Something entered in this list still waits for the server. Change the list when it has gone.')
      return false
    }
    // The view comes by the stream, a moment after the entries are on the disk; where it is late, it is asked for.
    const caughtUp = () => (told.value?.seq ?? 0) >= outbox.lastSeen(id)
    await until(caughtUp).toBe(true, { timeout: 1500 })
    if (!caughtUp()) await readAgain()
    if (!caughtUp()) {
      problem.value = $t('The list could not be read again from the server. Nothing was changed: try once more.')
      return false
    }
    await nextTick() // and those who draw it have it
    return true
  }
  let adding = Promise.resolve(true)
  /** Adds an item behind those that are in a list, and behind those that still wait. */
  function add(list: string, item: unknown): Promise<boolean> {
    adding = adding.then(async () => {
      await settled(list)
      const there = (at(told.value?.sheet, list) as unknown[] | undefined)?.length ?? 0
      const waits = waitsFor(list).map((p) => 1 + Number(p.slice(list.length + 1).split('.')[0]))
      return set(`${list}.${Math.max(there, ...waits)}`, item)
    })
    return adding
  }
  const answer = (check: string, result: string, reason = '') =>
    say('answer', { check, result, ...(reason ? { reason } : {}) })
  const evaluation = computed(() => view.value?.evaluation)
  const check = (cid: string) => evaluation.value?.checks.find((c) => c.id === cid)
  const locked = computed(() => Boolean(view.value?.signed) || !may('helper'))

  const it = {
    id,
    view,
    missing,
    refused,
    evaluation,
    check,
    locked,
    problem,
    away,
    waiting,
    held,
    savedAt,
    others,
    say,
    sayProven,
    set,
    add,
    settled,
    answer,
  }
  provide(key, it)
  return it
}

export type Inspection = ReturnType<typeof provideInspection>
const key: InjectionKey<Inspection> = Symbol('inspection')

export function useInspection(): Inspection {
  const it = inject(key)
  if (!it) throw new Error($t('no inspection is provided here'))
  return it
}
