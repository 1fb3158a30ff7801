import { useEventSource, useLocalStorage } from '@vueuse/core'
import { computed, inject, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { api, ApiError, take, type Schemas, type View } from '@/api/client'
import { who } from './session'

type Kind = Schemas['EntryIn']['kind']
type Waiting = Schemas['EntryIn']

/** An id of 128 random bits. (randomUUID is not there on a plain workshop network.) */
function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}

/**
 * One inspection on this screen: its state as the server last gave it, and the
 * entries that still wait to be sent. An entry is kept in the browser until it
 * is acknowledged, so neither a reload nor a server that is away loses it.
 */
export function provideInspection(id: string) {
  const view = shallowRef<View | null>(null)
  const problem = ref<string | null>(null)
  const away = ref(false)
  const savedAt = ref<Date | null>(null)
  const waiting = useLocalStorage<Waiting[]>(`jg-waiting-${id}`, [])
  let sending: Promise<void> | null = null

  function accept(v: View) {
    if (!view.value || v.seq >= view.value.seq) view.value = v
  }

  const { data, status } = useEventSource(`/api/inspections/${encodeURIComponent(id)}/events`, ['view'], {
    autoReconnect: { retries: -1, delay: 1500 },
  })
  watch(data, (d) => {
    if (d) accept(JSON.parse(d) as View)
  })
  watch(status, (s) => {
    away.value = s !== 'OPEN' && view.value !== null
    if (s === 'OPEN') void flush()
  })

  async function send() {
    while (waiting.value.length) {
      const next = waiting.value[0]!
      try {
        await take(api.POST('/api/inspections/{id}/entries', { params: { path: { id } }, body: next }))
        savedAt.value = new Date()
        away.value = false
      } catch (e) {
        if (!(e instanceof ApiError) || e.status === 0 || e.status >= 500) {
          away.value = true
          return // stays in the queue
        }
        problem.value = e.message
        waiting.value = waiting.value.slice(1)
        throw e
      }
      waiting.value = waiting.value.slice(1)
    }
  }

  function flush() {
    sending ??= send().finally(() => (sending = null))
    return sending
  }

  /** Says one thing about the inspection; true when it is on the server's disk. */
  async function say(kind: Kind, body: unknown, instrument?: string): Promise<boolean> {
    problem.value = null
    waiting.value = [...waiting.value, { id: newId(), by: who.value, kind, body, instrument }]
    try {
      await flush()
    } catch {
      return false
    }
    return waiting.value.length === 0
  }

  const set = (path: string, value: unknown, instrument?: string) => say('set', { path, value }, instrument)
  const answer = (check: string, result: string, reason = '') =>
    say('answer', { check, result, ...(reason ? { reason } : {}) })
  const evaluation = computed(() => view.value?.evaluation)
  const check = (cid: string) => evaluation.value?.checks.find((c) => c.id === cid)
  const locked = computed(() => Boolean(view.value?.signed))

  const it = { id, view, evaluation, check, locked, problem, away, waiting, savedAt, say, set, answer, flush }
  provide(key, it)
  return it
}

export type Inspection = ReturnType<typeof provideInspection>
const key: InjectionKey<Inspection> = Symbol('inspection')

export function useInspection(): Inspection {
  const it = inject(key)
  if (!it) throw new Error('no inspection is provided here')
  return it
}
