import { $t } from '@/lib/say'
import type { CheckState } from '@/api/client'
import { outcomeWord } from '@/lib/words'
import { bare, withUnit } from '@/state/units'

/** How a check stands, in a few words: what is missing, or the figure that decides. */
export function stateWords(c: CheckState): string {
  if (c.pending) return $t('to be measured again')
  if (c.outcome === 'open' && c.undone_by) return $t('open again after a repair')
  if (c.outcome === 'open' && c.needs.length)
    return c.needs.length === 1 ? $t('1 reading missing') : $t('{n} readings missing', { n: c.needs.length })
  if (c.outcome === 'open' || c.outcome === 'not_applicable') return outcomeWord(c.outcome, c.kind)
  const bad = c.judged.find((x) => x.result !== 'pass')
  const j = bad ?? c.judged.find((x) => x.value !== null)
  if (c.outcome === 'doubtful' && !bad && c.why.length) return $t('not sure: {why}', { why: c.why[0] })
  if (c.kind === 'look' && c.outcome === 'pass' && c.judged.length)
    return c.answer ? $t('seen and measured') : $t('measured, holds')
  // Of many that hold, none is worth a figure of its own.
  if (!bad && c.judged.length > 3) return $t('all hold')
  if (!j || j.value === null) return outcomeWord(c.outcome, c.kind)
  const limit =
    j.lower !== null && j.upper !== null
      ? $t('{value}, {lower} to {upper} asked', {
          value: withUnit(j.value, j.unit),
          lower: bare(j.lower, j.unit, 2),
          upper: bare(j.upper, j.unit, 2),
        })
      : j.lower !== null
        ? $t('{value} of {lower} asked', { value: withUnit(j.value, j.unit), lower: withUnit(j.lower, j.unit) })
        : $t('{value}, {upper} at most', { value: withUnit(j.value, j.unit), upper: withUnit(j.upper, j.unit) })
  return c.outcome === 'doubtful' ? $t('not sure: {limit}', { limit }) : limit
}
