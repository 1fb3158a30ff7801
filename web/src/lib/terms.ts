import { $t } from '@/lib/say'
/** Terms that not everybody knows, explained once. The longer list is docs/glossary.md. */
export const terms = {
  U: $t(
    'U: how far off a reading may be, in 95 of 100 readings like it. A value closer to its limit than U is not sure.',
  ),
  bound: $t('Bound: 95 of 100 pulls stay below this time, said with 95 % confidence. It shrinks with more pulls.'),
  school: $t(
    'School: one of the ways of judging on which good workshops differ. The house has chosen one; the others are shown.',
  ),
  bite: $t('Bite: the lever travel at which the pads touch. The motor must be off before.'),
} as const
export type Term = keyof typeof terms
export const names: Record<Term, string> = { U: 'U', bound: $t('bound'), school: $t('school'), bite: $t('bite') }
