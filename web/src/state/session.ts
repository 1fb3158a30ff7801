import { useEventListener, useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, shallowRef, watchEffect } from 'vue'
import { api, ApiError, onSignedOut, take, type Schemas } from '@/api/client'

/** Who is signed in at this browser, as the server knows it; null until it has said. */
export const session = shallowRef<Schemas['SessionView'] | null>(null)
export const me = computed(() => session.value?.person ?? null)
export const who = computed(() => me.value?.name ?? '')
export const workshopName = computed(() => session.value?.workshop ?? { name: '', place: '' })

const ranks = ['guest', 'helper', 'inspector', 'lead']
/** Whether the person may do what the least of these roles may. */
export const may = (least: 'helper' | 'inspector' | 'lead') =>
  ranks.indexOf(me.value?.role ?? '') >= ranks.indexOf(least)

/** Changes when somebody signs in or out in another window of this browser. */
const changed = useLocalStorage('jg-session-changed', 0)

function put(s: Schemas['SessionView']) {
  const other = session.value?.person?.id !== s.person?.id
  session.value = s
  if (other) changed.value = Date.now()
  if (other) void forget()
}

/** What one person read is not kept for the next. */
async function forget() {
  if (!('caches' in window)) return
  for (const name of await caches.keys()) if (name.startsWith('jg-said')) await caches.delete(name)
}

export async function readSession() {
  const s = await take(api.GET('/api/session'))
  if (JSON.stringify(s) !== JSON.stringify(session.value)) session.value = s
}

export const signIn = async (body: Schemas['SignIn']) => put(await take(api.POST('/api/session', { body })))
export const signInByPin = async (person: string, pin: string) =>
  put(await take(api.POST('/api/session/pin', { body: { person, pin } })))
/** A demo lets anybody in as one of its made-up people. */
export const visit = async (person: string) => put(await take(api.POST('/api/session/visit', { body: { person } })))
export const setUp = async (body: { workshop: Schemas['WorkshopName']; name: string; password: string }) =>
  put(await take(api.POST('/api/setup', { body })))
export async function signOut(everywhere = false) {
  await (everywhere ? api.POST('/api/session/end-all') : api.DELETE('/api/session'))
  await forget()
  changed.value = Date.now()
  await readSession()
}

/** Keeps what this window knows of the session true. */
export function useSession() {
  const again = () => void readSession().catch(() => undefined)
  onSignedOut(again)
  useEventListener(window, 'storage', (e) => {
    if (e.key === 'jg-session-changed') again()
  })
  useEventListener(document, 'visibilitychange', () => {
    if (!document.hidden) again()
  })
}

/** The words for what went wrong at signing in. */
export const words = (e: unknown) => (e as ApiError).message

export const shade = useLocalStorage<'auto' | 'light' | 'dark'>('jg-shade', 'auto')

/** How large text and controls are on this screen. */
export const textSize = useLocalStorage('jg-size', 1)

/** Metric or US customary units on this screen; what is stored never changes. */
export const units = useLocalStorage<'metric' | 'us'>('jg-units', 'metric')

/**
 * What is in hand: the tool for each unit, and where words and figures that no tool
 * reads come from. Picked by a person, and kept until it is put down.
 */
export const hand = useLocalStorage<Record<string, string>>('jg-hand', {})

const prefersDark = usePreferredDark()
export const dark = computed(() => (shade.value === 'auto' ? prefersDark.value : shade.value === 'dark'))
watchEffect(() => {
  document.documentElement.dataset.shade = dark.value ? 'dark' : 'light'
  document.documentElement.style.zoom = String(textSize.value)
})
