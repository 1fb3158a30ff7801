import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, take, type CalcName, type CalcOutput, type Schemas } from '@/api/client'
import { useInspection } from './inspection'

/** How a check came about that a calculation settles: its input, its result, its remedies. */
export function useExplain<K extends CalcName>(check: Ref<string | undefined>, calc?: K) {
  const { id, view } = useInspection()
  const { data } = useQuery({
    queryKey: computed(() => ['explain', id, check.value, view.value?.seq]),
    queryFn: () =>
      take(api.GET('/api/inspections/{id}/checks/{check}', { params: { path: { id, check: check.value! } } })),
    enabled: computed(() => Boolean(check.value)),
    placeholderData: keepPreviousData,
  })
  // The server names the calculation that answers; another one's answer is none to this question.
  return computed(() => {
    const d = data.value
    if (!d || (calc && d.calc !== calc)) return undefined
    return d as Omit<typeof d, 'input' | 'result' | 'u'> & {
      input?: Schemas['CalculationInputs'][K]
      result?: CalcOutput<K>
      u?: Record<string, number>
    }
  })
}
