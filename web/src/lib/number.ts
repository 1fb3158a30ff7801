import type { Field } from '@/api/client'

/** A number as people type it, with a point or a comma; nothing else is one. */
export function parseNumber(text: string): number | undefined {
  const t = text.trim().replace(',', '.')
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(t) ? Number(t) : undefined
}

/** Whether a stored value is beyond what a field takes. */
export const outOfRange = (f: Field | undefined, v: number) =>
  f !== undefined && ((f.min != null && v < f.min) || (f.max != null && v > f.max))
