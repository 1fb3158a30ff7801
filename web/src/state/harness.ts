import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from './inspection'

/** The power leads as a circuit, and the steering cable from lock to lock. */
export function useHarness() {
  const { id, view } = useInspection()
  const { data } = useQuery({
    queryKey: computed(() => ['harness', id, view.value?.seq]),
    queryFn: () => take(api.GET('/api/inspections/{id}/harness', { params: { path: { id } } })),
    placeholderData: keepPreviousData,
  })
  return data
}
