import { $t } from '@/lib/say'
import type { CheckState, Judged } from '@/api/client'

/** How a judged number is written in its unit. */
export interface Write {
  bare: (v: number | null, unit?: string) => string
  full: (v: number | null, unit?: string) => string
}

/** The bounds of a number, in words; empty where it has none. */
export function bounds(j: Pick<Judged, 'lower' | 'upper' | 'unit'> & { strict?: boolean }, w: Write): string {
  const { lower, upper, unit } = j
  if (lower != null && lower === upper) return w.full(lower, unit)
  if (lower != null && upper != null)
    return $t('{bare} to {full}', { bare: w.bare(lower, unit), full: w.full(upper, unit) })
  if (lower != null) return $t('at least {full}', { full: w.full(lower, unit) })
  if (upper == null) return ''
  return j.strict
    ? $t('under {full}', { full: w.full(upper, unit) })
    : $t('at most {full}', { full: w.full(upper, unit) })
}
const asked = (j: Judged, w: Write) => {
  const text = bounds(j, w)
  return text && $t('{bounds} asked', { bounds: text })
}

/** A finding's number with what is asked of it; empty where it has none. */
export function found(j: Judged | null | undefined, w: Write): string {
  if (j?.value == null) return ''
  return `: ${[w.full(j.value, j.unit), asked(j, w)].filter(Boolean).join(', ')}`
}

/** How a number stands to what is asked of it. */
function how(j: Judged): string {
  if (j.result === 'pass') return $t('holds')
  if (j.result !== 'fail') return $t('not sure: the limit lies within the error of the reading')
  const low = j.lower != null && (j.value ?? 0) < j.lower
  if (j.unit === 'N·m') return low ? $t('too loose') : $t('too tight')
  return low ? $t('too little') : $t('too much')
}

/** What a reading that was just kept comes to: the worst of what is judged by it, or the check that fails with it. */
export function told(checks: readonly CheckState[], path: string, value: number, unit: string | undefined, w: Write) {
  const by = checks.filter((c) => c.sources.some((s) => s.path === path))
  const own = by.flatMap((c) => c.judged).filter((j) => j.value === value && j.unit === unit)
  const j = own.find((x) => x.result === 'fail') ?? own.find((x) => x.result !== 'pass') ?? own[0]
  const other = by.find((c) => c.outcome === 'fail')
  const words = j
    ? `${w.full(value, unit)}: ${[how(j), asked(j, w)].filter(Boolean).join(', ')}`
    : $t('{full} is written down.{other}', {
        full: w.full(value, unit),
        other: other ? $t(' {title} does not hold.', { title: other.title }) : '',
      })
  return { words, failed: j ? j.result === 'fail' : other !== undefined }
}
