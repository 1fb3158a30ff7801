import { useEventSource } from '@vueuse/core'
import { computed, inject, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import type { Schemas, View } from '@/api/client'
import * as outbox from './outbox'
import { who } from './session'

type Kind = Schemas['EntryIn']['kind']

/**
 * One inspection on this screen: its state as the server last gave it, and the
 * way to say something about it.
 */
export function provideInspection(id: string) {
  const view = shallowRef<View | null>(null)
  const problem = ref<string | null>(null)
  const savedAt = ref<Date | null>(null)
  const broken = ref(false)
  const away = computed(() => (broken.value || outbox.away.value) && view.value !== null)
  const waiting = computed(() => outbox.waiting.value.filter((w) => w.inspection === id))
  const held = computed(() => outbox.held.value.filter((h) => h.item.inspection === id))

  const { data, status } = useEventSource(`/api/inspections/${encodeURIComponent(id)}/events`, ['view'], {
    autoReconnect: { retries: -1, delay: 1500 },
  })
  watch(data, (d) => {
    if (!d) return
    const v = JSON.parse(d) as View
    outbox.saw(id, v.seq)
    if (!view.value || v.seq >= view.value.seq) view.value = v
  })
  watch(status, (s) => {
    broken.value = s !== 'OPEN'
    if (s === 'OPEN') {
      outbox.away.value = false
      void outbox.flush()
    }
  })

  /** Says one thing about the inspection; true when it is on the server's disk. */
  async function say(kind: Kind, body: unknown, instrument?: string): Promise<boolean> {
    problem.value = null
    const { fate, why } = await outbox.fateOf(
      outbox.put(id, { id: outbox.newId(), by: who.value, kind, body, instrument }),
    )
    if (fate === 'saved') savedAt.value = new Date()
    if (fate === 'refused') problem.value = why
    return fate === 'saved'
  }

  const set = (path: string, value: unknown, instrument?: string) => say('set', { path, value }, instrument)
  const answer = (check: string, result: string, reason = '') =>
    say('answer', { check, result, ...(reason ? { reason } : {}) })
  const evaluation = computed(() => view.value?.evaluation)
  const check = (cid: string) => evaluation.value?.checks.find((c) => c.id === cid)
  const locked = computed(() => Boolean(view.value?.signed))

  const it = { id, view, evaluation, check, locked, problem, away, waiting, held, savedAt, say, set, answer }
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
