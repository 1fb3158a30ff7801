import type { Schemas } from '@/api/client'

/** A point in mm, ground at y = 0, rear axle at x = 0, front to the right. */
export type Pt = { x: number; y: number }

export interface SideView {
  rear: { c: Pt; r: number; rim: number }
  front: { c: Pt; r: number; rim: number }
  bb: Pt
  crown: Pt
  headTop: Pt
  bars: Pt
  seatTop: Pt
  saddle: Pt
  box: { x0: number; x1: number; y1: number }
}

const rad = (deg: number) => (deg * Math.PI) / 180

/** The side view to scale from the sheet; usual figures where it is silent. */
export function sideView(s: Schemas['VehicleSheet']): SideView {
  const g = s.geometry
  const wheel = (w: Schemas['VehicleWheel']) => {
    const bsd = w?.bsd_mm?.value ?? 622
    return { r: bsd / 2 + (w?.tyre_mm?.value ?? 50), rim: bsd / 2 }
  }
  const rear = wheel(s.rear)
  const front = wheel(s.front)
  const wheelbase = g?.wheelbase_mm ?? 1090
  const head = rad(g?.head_deg ?? 70.5)
  const seat = rad(g?.seat_deg ?? 73)
  const stay = g?.stay_mm ?? 450
  const drop = g?.drop_mm ?? 65
  const fork = g?.fork_mm ?? 430
  const offset = g?.offset_mm ?? 45
  const u = { x: -Math.cos(head), y: Math.sin(head) }
  const n = { x: -Math.sin(head), y: -Math.cos(head) }
  const along = Math.sqrt(fork * fork - offset * offset)
  const fa = { x: wheelbase, y: front.r }
  const crown = { x: fa.x + u.x * along + n.x * offset, y: fa.y + u.y * along + n.y * offset }
  const on = (p: Pt, d: number) => ({ x: p.x + u.x * d, y: p.y + u.y * d })
  const headTube = g?.head_tube_mm ?? 150
  const bb = { x: Math.sqrt(stay * stay - drop * drop), y: rear.r - drop }
  const post = (d: number) => ({ x: bb.x - Math.cos(seat) * d, y: bb.y + Math.sin(seat) * d })
  const seatTube = g?.seat_tube_mm ?? 440
  const bars = on(crown, headTube + 70)
  const saddle = post(seatTube + 180)
  return {
    rear: { c: { x: 0, y: rear.r }, ...rear },
    front: { c: fa, ...front },
    bb,
    crown,
    headTop: on(crown, headTube),
    bars,
    seatTop: post(seatTube),
    saddle,
    box: { x0: -rear.r, x1: wheelbase + front.r, y1: Math.max(bars.y, saddle.y) + 70 },
  }
}

/** Places labels in a column from top to bottom so that none covers another. */
export function spread<T extends { y: number }>(labels: T[], gap: number, top: number, bottom: number): T[] {
  const out = [...labels].sort((a, b) => a.y - b.y)
  let y = top
  for (const l of out) {
    l.y = Math.max(l.y, y)
    y = l.y + gap
  }
  let limit = bottom
  for (const l of out.reverse()) {
    l.y = Math.min(l.y, limit)
    limit = l.y - gap
  }
  return out
}
