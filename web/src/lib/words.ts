import { $t, locale } from '@/lib/say'
/** How figures and states are written. Rounding happens here and nowhere else. */

/** A figure with three to four significant digits. */
export function figure(v: number | null | undefined, digits = 3): string {
  if (v === null || v === undefined) return '–'
  if (v === 0) return '0'
  const n = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(v))))
  return v.toFixed(Math.min(n, 4))
}

/** The word for a value of an enumeration. */
export const term = (value: string) => $t(value.replaceAll('_', ' '))

export type Mark = 'open' | 'ajar' | 'held' | 'shut' | 'not_begun'

/** The gate mark and the word for a check's outcome. */
export function outcomeMark(outcome: string, severity: string): Mark {
  switch (outcome) {
    case 'pass':
    case 'not_applicable':
      return 'open'
    case 'doubtful':
      return severity === 'watch' ? 'ajar' : 'held'
    case 'fail':
      return severity === 'stop' ? 'shut' : severity === 'fix' ? 'held' : 'ajar'
    default:
      return 'not_begun'
  }
}

export function outcomeWord(outcome: string, kind: string): string {
  switch (outcome) {
    case 'pass':
      return kind === 'look' ? $t('seen, good') : $t('holds')
    case 'fail':
      return $t('fails')
    case 'doubtful':
      return $t('not sure')
    case 'not_applicable':
      return $t('does not apply')
    default:
      return $t('waiting')
  }
}

/** What a severity asks of people. */
export const severityWord: Record<string, string> = {
  stop: $t('must not be ridden'),
  fix: $t('mend before release'),
  watch: $t('watch, with a date'),
  note: $t('note'),
}

export const markClass: Record<Mark, string> = {
  open: 'holds',
  ajar: 'attend',
  held: 'attend',
  shut: 'stop',
  not_begun: 'small',
}

export const verdictWord: Record<string, string> = {
  open: $t('Gate open'),
  ajar: $t('Gate ajar'),
  held: $t('Gate held'),
  shut: $t('Gate shut'),
}

export function clock(at: string): string {
  return new Date(at).toLocaleTimeString(locale, { hour: '2-digit', minute: '2-digit' })
}

export function date(at: string): string {
  return new Date(at).toLocaleDateString(locale, { day: 'numeric', month: 'short', year: 'numeric' })
}

/** Roughly how long, in words that promise no more than they know. */
export function minutes(n: number): string {
  return n < 60 ? $t('about {n} min', { n: Math.ceil(n / 5) * 5 }) : $t('about {n} h', { n: (n / 60).toFixed(1) })
}

const unitSuffix = /_(mm2|mm|m2|nm|kmh|kg|km|deg|pct|wh_km|wh|ah|ohm|mpa|ms|m|v|a|w|c|s|n|g)$/

/** What an input is called on a form: its unit is said beside it. */
export function inputName(name: string, doc?: string): string {
  return doc || term(name.replace(unitSuffix, ''))
}
