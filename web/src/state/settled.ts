import { ref, watch } from 'vue'
import { useIsFetching } from '@tanstack/vue-query'
import { useDebounceFn, useTimeoutFn } from '@vueuse/core'

/** How long nothing may be asked for until a page counts as all there: a part that came in may ask for more. */
const QUIET_MS = 250
/** No page waits longer, whatever is still out. */
const LONGEST_MS = 2000

/**
 * Whether all that a page asks for at first is in, so that nothing on it shifts any more. Once so, it stays so until
 * the page is another.
 */
export function useSettled(page: () => string) {
  const settled = ref(false)
  const first = useIsFetching({ predicate: (q) => q.state.data === undefined })
  const settle = () => (settled.value = true)
  const look = useDebounceFn(() => first.value || settle(), QUIET_MS)
  const longest = useTimeoutFn(settle, LONGEST_MS)
  watch(first, look)
  watch(
    page,
    () => {
      settled.value = false
      longest.start()
      void look()
    },
    { immediate: true },
  )
  return settled
}
