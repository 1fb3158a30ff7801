import { $t } from '@/lib/say'
import { QueryCache, QueryClient } from '@tanstack/vue-query'
import { shallowRef } from 'vue'
import type { ApiError } from '@/api/client'

/** What could not be read, by its query; said in one place, whichever part of a page asked for it. */
export const unread = shallowRef<Map<string, string>>(new Map())
function note(key: string, why?: string) {
  const next = new Map(unread.value)
  if (why) next.set(key, why)
  else if (!next.delete(key)) return
  unread.value = next
}

export const client = new QueryClient({
  queryCache: new QueryCache({
    onError: (e, q) => {
      // Signed out is said by the door; what is not there, by the page that asked for it.
      if (![401, 404].includes((e as ApiError).status)) note(q.queryHash, e.message)
    },
    onSuccess: (_, q) => note(q.queryHash),
  }),
  defaultOptions: { queries: { retry: 1, staleTime: 5_000 } },
})

/** A page that could not be fetched, and the way to try it again. */
let page: (() => unknown) | null = null
export function pageAway(again: () => unknown) {
  page = again
  note('page', $t('The station did not come from the server.'))
}

export async function readAgain() {
  unread.value = new Map()
  const wanted = page
  page = null
  if (wanted) await wanted()
  await client.refetchQueries({ type: 'active', predicate: (q) => q.state.status === 'error' })
}
