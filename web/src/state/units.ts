import { computed, shallowRef } from 'vue'
import type { Field, Schemas } from '@/api/client'
import { notNumber, outOfRange, parseNumber } from '@/lib/number'
import { figure } from '@/lib/words'
import { units } from './session'

/** The server's table of units and their US customary counterparts. */
const table = shallowRef<Schemas['Conversion'][]>([])
export function setConversions(list: Schemas['Conversion'][]) {
  table.value = list
}
const byMetric = computed(() => new Map(table.value.map((c) => [c.metric, c])))
/** The table has come from the server. */
export const tableThere = computed(() => table.value.length > 0)
const of = (unit?: string, system = units.value) => (system === 'us' && unit ? byMetric.value.get(unit) : undefined)

/** A stored value as this screen shows it. A difference takes no offset. */
export function shown(v: number, unit?: string): number {
  const c = of(unit)
  return c ? v * c.factor + c.offset : v
}

/** What was typed on this screen, as it is stored. */
export function stored(v: number, unit?: string, system = units.value): number {
  const c = of(unit, system)
  return c ? Number(((v - c.offset) / c.factor).toPrecision(12)) : v
}

export function unitShown(unit?: string): string {
  return of(unit)?.us ?? unit ?? ''
}

/** A width (an uncertainty) as this screen shows it. */
export function width(v: number, unit?: string): number {
  return v * (of(unit)?.factor ?? 1)
}

/** A figure with its unit. */
export function withUnit(v: number | null | undefined, unit?: string, digits = 3): string {
  if (v === null || v === undefined || !unit) return figure(v, digits)
  return `${figure(shown(v, unit), digits)} ${unitShown(unit)}`
}

/** A figure as this screen shows it, its unit said elsewhere. */
export function bare(v: number | null | undefined, unit?: string, digits = 3): string {
  return v === null || v === undefined ? '–' : figure(shown(v, unit), digits)
}

/** What was typed for a field of the sheet, as it is stored; or what is wrong with it. */
export function readNumber(text: string, f: Field | undefined): { v?: number; wrong: string } {
  const n = parseNumber(text)
  if (n === undefined) return { wrong: notNumber(text, unitShown(f?.unit)) }
  const v = stored(n, f?.unit)
  if (f?.whole && !Number.isInteger(v)) return { wrong: `${text.trim()} is not a whole number.` }
  if (outOfRange(f, v))
    return {
      wrong: `${withUnit(v, f!.unit)} is out of range: ${withUnit(f!.min, f!.unit)} to ${withUnit(f!.max, f!.unit)}.`,
    }
  return { v, wrong: '' }
}
