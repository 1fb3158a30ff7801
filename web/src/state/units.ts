import { $t } from '@/lib/say'
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

/** A speed in km/h as miles an hour, whatever this screen counts in. */
export const inMiles = (kmh: number) => kmh * (of('km/h', 'us')?.factor ?? NaN)

export function unitShown(unit?: string): string {
  return of(unit)?.us ?? { '1/min': 'rpm', turns: $t('turns') }[unit ?? ''] ?? unit ?? ''
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

const inText = /(-?\d+(?:\.\d+)?)(?: to (-?\d+(?:\.\d+)?))? ?(N·m|mm|km\/h|km|kg|bar|°C|N|m)(?![\w²/·])/g

/** A sentence of the server's with its figures in this screen's units. */
function sentence(text: string): string {
  return text.replace(inText, (all, a: string, b: string | undefined, unit: string) =>
    of(unit)
      ? b
        ? $t('{low} to {high}', { low: bare(Number(a), unit), high: withUnit(Number(b), unit) })
        : withUnit(Number(a), unit)
      : all,
  )
}

const sentences = ['words', 'wrong', 'ask', 'why']

/** What the server says, its sentences with figures in this screen's units. */
export function spoken<T>(v: T): T {
  return units.value === 'us' ? (walk(v) as T) : v
}
function walk(v: unknown, key = ''): unknown {
  if (typeof v === 'string') return sentences.includes(key) ? sentence(v) : v
  if (Array.isArray(v)) return v.map((x) => walk(x, key))
  if (v === null || typeof v !== 'object') return v
  return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, k === 'sheet' ? x : walk(x, k)]))
}

/** What was typed for a field of the sheet, as it is stored; or what is wrong with it. */
export function readNumber(text: string, f: Field | undefined): { v?: number; wrong: string } {
  const n = parseNumber(text)
  if (n === undefined) return { wrong: notNumber(text, unitShown(f?.unit)) }
  const v = stored(n, f?.unit)
  if (f?.whole && !Number.isInteger(v)) return { wrong: $t('{text} is not a whole number.', { text: text.trim() }) }
  if (outOfRange(f, v))
    return {
      wrong: $t('{value} is out of range: {min} to {max}.', {
        value: withUnit(v, f!.unit),
        min: withUnit(f!.min, f!.unit),
        max: withUnit(f!.max, f!.unit),
      }),
    }
  return { v, wrong: '' }
}
