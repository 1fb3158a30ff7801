import { $t } from '@/lib/say'
import type { Field, Schemas } from '@/api/client'
import { notNumber, outOfRange, parseNumber } from '@/lib/number'
import { figure } from '@/lib/words'
import { units } from '@/state/session'
import { shown, stored, unitShown, width, withUnit } from '@/state/units'

/** What is typed into a sum: texts and words, in the shape of its input. */
export type Tree = Record<string, unknown>
const numeric = (f: Field) => f.kind === 'number' || f.kind === 'integer'
const numbers = (f: Field) => f.items === 'number' || f.items === 'integer'

/** Every number of a tree put through a function, with the field it stands in. */
function each(fields: Field[] | undefined, tree: unknown, f: (v: unknown, of: Field) => unknown): Tree {
  const out: Tree = {}
  for (const [k, v] of Object.entries((tree ?? {}) as Tree)) {
    const of = fields?.find((x) => x.name === k)
    if (!of) continue
    if (of.kind === 'object') out[k] = each(of.fields, v, f)
    else if (of.kind === 'list' && !Array.isArray(v))
      continue // of a link that somebody wrote by hand
    else if (of.kind === 'list' && of.items === 'object') out[k] = (v as unknown[]).map((x) => each(of.fields, x, f))
    else if (of.kind === 'list') out[k] = numbers(of) ? (v as unknown[]).map((x) => f(x, of)) : v
    else out[k] = numeric(of) ? f(v, of) : v
  }
  return out
}

/** What was typed, with numbers as the sum takes them; a text that is no number stays as it is. */
export const typed = (fields: Field[] | undefined, tree: unknown, system?: 'metric' | 'us'): Tree =>
  each(fields, tree, (v, of) => {
    const n = parseNumber(String(v))
    return n === undefined ? v : stored(n, of.unit, system)
  })

/** An input as this screen would have it typed. */
export const written = (fields: Field[] | undefined, tree: unknown): Tree =>
  each(fields, tree, (v, of) =>
    typeof v === 'number' ? String(Number(shown(v, of.unit).toPrecision(units.value === 'us' ? 4 : 6))) : v,
  )

/** What the description alone can say of an input, before anything is sent. */
export function faults(fields: Field[] | undefined, tree: Tree, path = ''): Schemas['FieldError'][] {
  return (fields ?? []).flatMap((f) => {
    const field = path ? `${path}.${f.name}` : f.name
    const v = tree[f.name]
    if (v === undefined || v === '') return f.required ? [{ field, problem: $t('is missing'), want: '' }] : []
    if (f.kind === 'object') return faults(f.fields, v as Tree, field)
    if (f.kind === 'list' && f.items === 'object')
      return (v as Tree[]).flatMap((x, i) => faults(f.fields, x, `${field}.${i}`))
    if (!numeric(f)) return []
    if (typeof v !== 'number') return [{ field, problem: notNumber(String(v), unitShown(f.unit)), want: '' }]
    if (f.whole && !Number.isInteger(v)) return [{ field, problem: $t('A whole number is wanted here.'), want: '' }]
    if (!outOfRange(f, v)) return []
    const range =
      f.min != null && f.max != null
        ? $t('{min} to {max}', { min: figure(shown(f.min, f.unit)), max: withUnit(f.max, f.unit) })
        : f.min != null
          ? $t('at least {min}', { min: withUnit(f.min, f.unit) })
          : $t('at most {max}', { max: withUnit(f.max, f.unit) })
    return [
      { field, problem: $t('{value} is out of range: {range}.', { value: withUnit(v, f.unit), range }), want: '' },
    ]
  })
}

/** The field of a path of the input. */
export function fieldOf(fields: Field[] | undefined, path: string): Field | undefined {
  let f: Field | undefined
  for (const k of path.split('.')) {
    if (/^\d+$/.test(k)) continue
    f = fields?.find((x) => x.name === k)
    fields = f?.fields
  }
  return f
}

/** Standard uncertainties as the sum takes them, from what was typed. */
export function uncertainties(fields: Field[] | undefined, u: Record<string, string>): Record<string, number> {
  const out: Record<string, number> = {}
  for (const [path, text] of Object.entries(u)) {
    const n = parseNumber(text)
    const unit = fieldOf(fields, path)?.unit
    if (n !== undefined) out[path] = n / width(1, unit)
  }
  return out
}
