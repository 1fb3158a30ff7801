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
  if (l.no_tool) return 'by hand, watched'
  if (l.backed_off) return 'turned back: slacken, look, tighten anew'
  if (l.why === 'lapsed') return 'tool lapsed: does not count'
  if (l.why === 'undone') return 'undone by a repair'
  if (!l.judged) return l.low_nm === null ? 'no window known' : 'waiting'
  switch (l.judged.result) {
    case 'pass':
      return 'holds'
    case 'fail':
      return l.judged.value! > l.judged.upper! ? 'too tight' : 'too loose'
  }
  return 'not sure: read again, or a better tool'
}

export const windowWord: Record<string, string> = {
  kit_sheet: 'kit sheet',
  label: 'frame or part',
  measured: 'measured',
  guessed: 'a guess',
  house: 'house',
  computed: 'from its material',
}
