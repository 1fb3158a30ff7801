import type { CheckState } from '@/api/client'
import { outcomeWord } from '@/lib/words'
import { bare, withUnit } from '@/state/units'

/** How a check stands, in a few words: what is missing, or the figure that decides. */
export function stateWords(c: CheckState): string {
  if (c.pending) return 'to be measured again'
  if (c.outcome === 'open' && c.undone_by) return 'open again after a repair'
  if (c.outcome === 'open' && c.needs.length)
    return c.needs.length === 1 ? '1 reading missing' : `${c.needs.length} readings missing`
  if (c.outcome === 'open' || c.outcome === 'not_applicable') return outcomeWord(c.outcome, c.kind)
  const bad = c.judged.find((x) => x.result !== 'pass')
  const j = bad ?? c.judged.find((x) => x.value !== null)
  if (c.outcome === 'doubtful' && !bad && c.why.length) return `not sure: ${c.why[0]}`
  if (c.kind === 'look' && c.outcome === 'pass' && c.judged.length)
    return c.answer ? 'seen and measured' : 'measured, holds'
  // Of many that hold, none is worth a figure of its own.
  if (!bad && c.judged.length > 3) return 'all hold'
  if (!j || j.value === null) return outcomeWord(c.outcome, c.kind)
  const limit =
    j.lower !== null && j.upper !== null
      ? `${withUnit(j.value, j.unit)}, ${bare(j.lower, j.unit, 2)} to ${bare(j.upper, j.unit, 2)} asked`
      : j.lower !== null
        ? `${withUnit(j.value, j.unit)} of ${withUnit(j.lower, j.unit)} asked`
        : `${withUnit(j.value, j.unit)}, ${withUnit(j.upper, j.unit)} at most`
  return c.outcome === 'doubtful' ? `not sure: ${limit}` : limit
}
