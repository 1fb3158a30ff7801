/** Words that are not everybody's, explained once. The longer list is docs/glossary.md. */
export const terms = {
  U: 'U: how far off a reading may be, for 95 of 100 readings like it. A value nearer to its limit than U is not sure.',
  bound: 'Bound: 95 of 100 pulls stay below this time, said with 95 % confidence. It shrinks with more pulls.',
  school: 'School: a way of judging that good workshops differ on. The house has chosen one; the others are shown.',
  bite: 'Bite: the lever travel at which the pads touch. The motor must be off before.',
} as const
export type Term = keyof typeof terms
