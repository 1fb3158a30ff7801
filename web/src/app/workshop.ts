import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, take, type Field } from '@/api/client'

/** People, tools, house policy, the sheet's fields and the catalogue. */
export function useWorkshop() {
  const { data } = useQuery({
    queryKey: ['workshop'],
    queryFn: () => take(api.GET('/api/workshop')),
    staleTime: 60_000,
  })
  const fieldAt = (path: string): Field | undefined => {
    let fields: Field[] | undefined = data.value?.sheet_fields
    let f: Field | undefined
    for (const k of path.split('.')) {
      if (/^\d+$/.test(k) && f?.kind === 'list') continue
      f = fields?.find((x) => x.name === k)
      fields = f?.fields
    }
    return f
  }
  return { workshop: data, tools: computed(() => data.value?.instruments ?? []), fieldAt }
}
