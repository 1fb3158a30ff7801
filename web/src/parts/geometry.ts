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
export function sideView(s: Schemas['Sheet']): SideView {
  const g = s.geometry
  const wheel = (w: Schemas['Wheel']) => {
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

/** How a drawing in mm gets to the screen. */
export interface Canvas {
  X: (x: number) => number
  Y: (y: number) => number
  line: (...q: Pt[]) => string
}

/** Where the zones are in one view. */
export type Places = Record<string, { at: Pt; name: string }>

export const mid = (a: Pt, b: Pt, t = 0.5): Pt => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t })

export const motorAt = (s: Schemas['Sheet'], kind: string) => (s.drives ?? []).some((d) => d.kind === kind)

/** Where the packs sit in the side view: along which tube, how far off it. */
export function packsOf(sheet: Schemas['Sheet'], s: SideView) {
  const trike = sheet.kind !== 'bicycle'
  return (sheet.packs ?? []).map((k) => {
    switch (k.place) {
      case 'down_tube':
        return { at: mid(s.bb, s.crown, 0.5), a: s.bb, b: s.crown, lift: 52, l: 360, h: 86 }
      case 'seat_tube':
        return { at: mid(s.bb, s.seatTop, 0.5), a: s.bb, b: s.seatTop, lift: -55, l: 300, h: 80 }
    }
    const y = trike && k.place !== 'rack' ? s.rear.c.y + s.rear.r * 0.55 : s.rear.c.y + s.rear.r + 60
    return { at: { x: -30, y }, a: { x: -100, y }, b: { x: 100, y }, lift: 0, l: 340, h: 90 }
  })
}

/** The places of the side view. A vehicle on its head has them all the same. */
export function sidePlaces(sheet: Schemas['Sheet'], s: SideView): Places {
  const controller = mid(s.bb, s.seatTop, 0.28)
  const wheel = (w: SideView['front'], dir: number) => ({ x: w.c.x + dir * w.rim * 0.72, y: w.c.y - w.rim * 0.68 })
  return {
    front_axle: { at: s.front.c, name: 'front axle' },
    rear_axle: { at: s.rear.c, name: 'rear axle' },
    front_wheel: { at: wheel(s.front, 1), name: 'front wheel' },
    rear_wheel: { at: wheel(s.rear, -1), name: 'rear wheel' },
    rotor: {
      at:
        sheet.front?.brake?.value === 'disc'
          ? { x: s.front.c.x - 66, y: s.front.c.y + 66 }
          : { x: s.rear.c.x + 66, y: s.rear.c.y + 66 },
      name: 'disc brake',
    },
    frame: {
      at: sheet.kind === 'bicycle' ? mid(s.seatTop, s.headTop, 0.45) : mid(mid(s.bb, s.seatTop, 0.45), s.headTop, 0.5),
      name: 'frame',
    },
    head: { at: mid(s.crown, s.headTop), name: 'head' },
    bars: { at: s.bars, name: 'bars' },
    left_lever: { at: { x: s.bars.x + 120, y: s.bars.y - 10 }, name: 'left lever' },
    right_lever: { at: { x: s.bars.x + 60, y: s.bars.y + 46 }, name: 'right lever' },
    battery: { at: packsOf(sheet, s)[0]?.at ?? mid(s.bb, s.crown), name: 'battery' },
    controller: { at: { x: controller.x - 70, y: controller.y }, name: 'controller' },
    motor: { at: motorPlace(sheet, s), name: 'motor' },
    cranks: { at: s.bb, name: 'cranks' },
    harness: { at: mid(s.crown, s.bb, 0.22), name: 'wiring' },
    vehicle: { at: { x: s.saddle.x, y: s.saddle.y }, name: 'whole vehicle' },
  }
}

function motorPlace(sheet: Schemas['Sheet'], s: SideView): Pt {
  if (motorAt(sheet, 'front_hub')) return { x: s.front.c.x + 50, y: s.front.c.y - 60 }
  if (motorAt(sheet, 'rear_hub')) return { x: s.rear.c.x - 50, y: s.rear.c.y - 60 }
  return { x: s.bb.x + 90, y: s.bb.y - 20 }
}

const mirrored = (places: Places, keep: string[]): Places =>
  Object.fromEntries(
    Object.entries(places)
      .filter(([z]) => keep.includes(z))
      .map(([z, k]) => [z, { ...k, at: { x: -k.at.x, y: k.at.y } }]),
  )

/** The left side: the drive side turned round. */
export const leftPlaces = (p: Places) => mirrored(p, Object.keys(p))

/** What is seen of one end, in mm from the middle; the rider's left is on the left from behind. */
export interface EndView {
  end: 'front' | 'rear'
  wheels: number[]
  r: number
  tyre: number
  top: number
  half: number
}

export function endView(sheet: Schemas['Sheet'], s: SideView, end: 'front' | 'rear'): EndView {
  const pair = (sheet.kind === 'delta' && end === 'rear') || (sheet.kind === 'tadpole' && end === 'front')
  const track = sheet.geometry?.track_mm ?? 700
  return {
    end,
    wheels: pair ? [-track / 2, track / 2] : [0],
    r: s[end].r,
    tyre: sheet[end]?.tyre_mm?.value ?? 50,
    top: end === 'front' ? s.bars.y + 30 : s.saddle.y + 40,
    half: Math.max(330, pair ? track / 2 + 90 : 0),
  }
}

export function endPlaces(sheet: Schemas['Sheet'], s: SideView, e: EndView): Places {
  const out = e.wheels.at(-1)!
  // Seen from the front, the rider's left stands on the right.
  const left = e.end === 'front' ? 1 : -1
  const places: Places = {
    [`${e.end}_axle`]: { at: { x: out + (e.wheels.length > 1 ? -60 : 55), y: e.r }, name: `${e.end} axle` },
    [`${e.end}_wheel`]: { at: { x: out, y: e.r * 1.75 }, name: `${e.end} wheel` },
  }
  if (sheet[e.end]?.brake?.value === 'disc')
    places.rotor = { at: { x: e.wheels[0]! - 46, y: e.r + 60 }, name: 'disc brake' }
  if (e.end === 'front') {
    places.left_lever = { at: { x: left * 250, y: s.bars.y - 8 }, name: 'left lever' }
    places.right_lever = { at: { x: left * -250, y: s.bars.y - 8 }, name: 'right lever' }
    places.bars = { at: { x: left * -120, y: s.bars.y + 14 }, name: 'bars' }
    places.head = { at: { x: 0, y: (s.crown.y + s.headTop.y) / 2 }, name: 'head' }
    places.harness = { at: { x: left * 70, y: s.crown.y + 20 }, name: 'wiring' }
  } else {
    places.frame = { at: { x: 0, y: s.seatTop.y - 60 }, name: 'frame' }
    places.vehicle = { at: { x: 0, y: s.saddle.y + 14 }, name: 'whole vehicle' }
    if ((sheet.packs ?? []).some((k) => ['rack', 'box', 'basket'].includes(k.place)))
      places.battery = { at: { x: 90, y: packsOf(sheet, s)[0]!.at.y }, name: 'battery' }
  }
  return places
}

/** A trike from above, front at the top: x to the right, y forward from the rear axle. */
export function planPlaces(sheet: Schemas['Sheet'], s: SideView): Places {
  const t = (sheet.geometry?.track_mm ?? 700) / 2
  const wb = s.front.c.x
  const tadpole = sheet.kind === 'tadpole'
  return {
    front_axle: { at: { x: tadpole ? t - 70 : 45, y: wb }, name: 'front axle' },
    rear_axle: { at: { x: tadpole ? 45 : t - 70, y: 0 }, name: 'rear axle' },
    front_wheel: { at: { x: tadpole ? t : 0, y: wb + s.front.r * 0.6 }, name: 'front wheel' },
    rear_wheel: { at: { x: tadpole ? 0 : t, y: -s.rear.r * 0.6 }, name: 'rear wheel' },
    head: { at: { x: 0, y: s.headTop.x }, name: 'head' },
    bars: { at: { x: 150, y: s.bars.x }, name: 'bars' },
    left_lever: { at: { x: -230, y: s.bars.x - 10 }, name: 'left lever' },
    right_lever: { at: { x: 230, y: s.bars.x - 10 }, name: 'right lever' },
    frame: { at: { x: 0, y: wb * 0.55 }, name: 'frame' },
    cranks: { at: { x: 80, y: s.bb.x }, name: 'cranks' },
    battery: { at: { x: -60, y: (sheet.packs ?? [])[0]?.place === 'down_tube' ? s.bb.x + 60 : 60 }, name: 'battery' },
    rotor: { at: { x: tadpole ? -t + 55 : -45, y: wb - 40 }, name: 'disc brake' },
    vehicle: { at: { x: 0, y: s.saddle.x }, name: 'whole vehicle' },
    controller: { at: { x: 60, y: s.bb.x - 120 }, name: 'controller' },
    harness: { at: { x: -30, y: wb * 0.72 }, name: 'wiring' },
    motor: { at: motorAt(sheet, 'front_hub') ? { x: 0, y: wb } : { x: 0, y: 0 }, name: 'motor' },
  }
}
