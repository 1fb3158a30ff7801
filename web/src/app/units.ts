import { computed, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import { units } from './session'

/** The server's table of units and their US customary counterparts. */
const table = shallowRef<Schemas['Conversion'][]>([])
export function setConversions(list: Schemas['Conversion'][]) {
  table.value = list
}
const byMetric = computed(() => new Map(table.value.map((c) => [c.metric, c])))
const of = (unit?: string) => (units.value === 'us' && unit ? byMetric.value.get(unit) : undefined)

/** A stored value as this screen shows it. A difference takes no offset. */
export function shown(v: number, unit?: string): number {
  const c = of(unit)
  return c ? v * c.factor + c.offset : v
}

/** What was typed on this screen, as it is stored. */
export function stored(v: number, unit?: string): number {
  const c = of(unit)
  return c ? Number(((v - c.offset) / c.factor).toPrecision(12)) : v
}

export function unitShown(unit?: string): string {
  return of(unit)?.us ?? unit ?? ''
}

/** A width (an uncertainty) as this screen shows it. */
export function width(v: number, unit?: string): number {
  return v * (of(unit)?.factor ?? 1)
}
