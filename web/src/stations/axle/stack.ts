import type { Schemas } from '@/api/client'

export type Side = 'left' | 'right'
type Part = Schemas['VehiclePart']

export const word = (kind: string) => kind.replaceAll('_', ' ')

/** One side from the motor outwards: places in the list of parts, the dropout among them. */
export function sideRow(parts: Part[], side: Side): (number | 'dropout')[] {
  const of = (place: string) => parts.map((p, i) => ({ p, i })).filter((x) => x.p.side === side && x.p.place === place)
  return [...of('inner').map((x) => x.i), 'dropout', ...of('outer').map((x) => x.i)]
}
