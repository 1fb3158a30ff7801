import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'

export type Line = Schemas['Fastener']
export type BoltMark = 'holds' | 'fails' | 'doubt' | 'hand' | 'waits'

/** How a bolt stands, for its mark on the map and its word in the table. */
export function markOf(l: Line): BoltMark {
  if (l.no_tool) return 'hand'
  if (!l.judged) return 'waits'
  if (l.judged.result === 'pass') return l.backed_off ? 'fails' : 'holds'
  return l.judged.result === 'fail' ? 'fails' : 'doubt'
}

export function wordOf(l: Line): string {
  if (l.no_tool) return $t('by hand, watched')
  if (l.backed_off) return $t('turned back: slacken, look, tighten anew')
  if (l.why === 'lapsed') return $t('tool lapsed: does not count')
  if (l.why === 'undone') return $t('undone by a repair')
  if (!l.judged) return l.low_nm === null ? $t('no window known') : $t('waiting')
  switch (l.judged.result) {
    case 'pass':
      return $t('holds')
    case 'fail':
      return l.judged.value! > l.judged.upper! ? $t('too tight') : $t('too loose')
  }
  return $t('not sure: read again, or a better tool')
}

export const windowWord: Record<string, string> = {
  kit_sheet: $t('kit sheet'),
  label: $t('frame or part'),
  measured: $t('measured'),
  guessed: $t('a guess'),
  house: $t('house'),
  computed: $t('from its material'),
}
