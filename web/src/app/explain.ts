import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from './inspection'

/** How a computed check came about: its input, its result, its remedies. */
export function useExplain(check: Ref<string | undefined>) {
  const { id, view } = useInspection()
  const { data } = useQuery({
    queryKey: computed(() => ['explain', id, check.value, view.value?.seq]),
    queryFn: () =>
      take(api.GET('/api/inspections/{id}/checks/{check}', { params: { path: { id, check: check.value! } } })),
    enabled: computed(() => Boolean(check.value)),
    placeholderData: keepPreviousData,
  })
  return data
}
