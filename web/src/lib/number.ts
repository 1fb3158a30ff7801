import { $t } from '@/lib/say'
import type { Field } from '@/api/client'

/** A number as people type it, with a decimal point or a decimal comma; nothing else is one. */
export function parseNumber(text: string): number | undefined {
  const t = text.trim()
  if (meanings(t)) return undefined
  const n = t.replace(',', '.')
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(n) ? Number(n) : undefined
}

/** What a number may mean whose comma may stand before decimals or between thousands; empty if it means one thing. */
function meanings(t: string): string {
  const m = /^([+-]?[1-9]\d{0,2}),(\d{3})$/.exec(t)
  return m ? $t('{point} or {thousands}', { point: `${m[1]}.${m[2]}`, thousands: `${m[1]}${m[2]}` }) : ''
}

/** What is wrong with a text that is no number. */
export function notNumber(text: string, unit = ''): string {
  const two = meanings(text.trim())
  if (two) return $t('{text} can mean {two}: type the one that you mean, without a comma.', { text: text.trim(), two })
  return $t('Type a number{unit}, like 12.5 or 12,5.', { unit: unit ? $t(' in {unit}', { unit }) : '' })
}

/** Whether a stored value is beyond what a field takes. */
export const outOfRange = (f: Field | undefined, v: number) =>
  f !== undefined && ((f.min != null && v < f.min) || (f.max != null && v > f.max))
