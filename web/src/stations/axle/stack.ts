import { term } from '@/lib/words'
import type { Schemas } from '@/api/client'

export type Side = 'left' | 'right'
type Part = Schemas['Part']

export const word = term

/** One side from the motor outwards: places in the list of parts, the dropout among them. */
export function sideRow(parts: Part[], side: Side): (number | 'dropout')[] {
  const of = (place: string) => parts.map((p, i) => ({ p, i })).filter((x) => x.p.side === side && x.p.place === place)
  return [...of('inner').map((x) => x.i), 'dropout', ...of('outer').map((x) => x.i)]
}

/** What a part is described with on its side: an arm and a tab washer are measured where their capacity is. */
export function describedBy(axle: Schemas['Axle'], p: Part) {
  if (p.thickness_mm?.value != null) return undefined
  const side = axle[p.side]
  const own = p.kind === 'torque_arm' ? side.arm : p.kind === 'tab_washer' ? side.tab_washer : undefined
  return own?.thickness_mm?.value != null ? own.thickness_mm : undefined
}

/** How thick a part is, by its own reading or by what it is described with. */
export const thicknessOf = (axle: Schemas['Axle'], p: Part) => describedBy(axle, p) ?? p.thickness_mm
