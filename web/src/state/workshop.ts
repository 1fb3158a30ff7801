import { $t } from '@/lib/say'
import { term } from '@/lib/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { api, take, type Field, type Schemas } from '@/api/client'
import { setConversions } from './units'

/** What can be computed, with inputs, outputs, limits and levers. */
export function useCalculations() {
  const { data } = useQuery({ queryKey: ['calc'], queryFn: () => take(api.GET('/api/calc')), staleTime: Infinity })
  return data
}

/** Follows a path of names and numbers through described fields. */
function walk(fields: Field[] | undefined, parts: string[]): Field | undefined {
  let f: Field | undefined
  for (const k of parts) {
    if (/^\d+$/.test(k) && f?.kind === 'list') {
      if (f.items !== 'object') f = { ...f, kind: f.items! }
      continue
    }
    f = fields?.find((x) => x.name === k)
    fields = f?.fields
  }
  return f
}

/** The calculation whose readings a key under "given" holds. */
export function calcOf(calcs: Schemas['Description'][] | undefined, key: string) {
  const name = key.replace(/_\d+$/, '').replaceAll('_', '-')
  return calcs?.find((c) => c.name === name)
}

/** The tools of the register alone, without all that a station needs beside. */
export function useTools() {
  const { data, isSuccess } = useQuery({
    queryKey: ['workshop', 'tools'],
    queryFn: () => take(api.GET('/api/instruments')),
    staleTime: 60_000,
  })
  return { tools: computed(() => data.value ?? []), known: isSuccess }
}

/** People, tools, house policy, the sheet's fields and the catalogue. */
export function useWorkshop() {
  const { data } = useQuery({
    queryKey: ['workshop'],
    queryFn: () => take(api.GET('/api/workshop')),
    staleTime: 60_000,
  })
  const calcs = useCalculations()
  watchEffect(() => setConversions(data.value?.units ?? []))
  const fieldAt = (path: string): Field | undefined => {
    const [head, key, ...rest] = path.split('.')
    if (head === 'given') return walk(calcOf(calcs.value, key!)?.inputs, rest)
    return walk(data.value?.sheet_fields, path.split('.'))
  }
  const titleAt = (path: string) => {
    const t = fieldAt(path)?.doc || term(path.split('.').at(-1)!)
    const side = path.split('.').find((k) => ['left', 'right', 'front', 'rear'].includes(k))
    return side && !t.includes(term(side)) ? $t('{field}, {side}', { field: t, side: term(side) }) : t
  }
  return { titleAt, workshop: data, tools: computed(() => data.value?.instruments ?? []), fieldAt }
}
