import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'

/** A point in mm, ground at y = 0, rear axle at x = 0, front to the right. */
export type Pt = { x: number; y: number }

/** A tube of the frame: its line and its width. */
export interface Tube {
  q: Pt[]
  w: number
}
export interface SideView {
  rear: { c: Pt; r: number; rim: number }
  front: { c: Pt; r: number; rim: number }
  bb: Pt
  crown: Pt
  headTop: Pt
  bars: Pt
  seatTop: Pt
  saddle: Pt
  /** Where the controller is drawn. */
  controller: Pt
  /** The tube that a pack on the frame lies along. */
  main: [Pt, Pt]
  tubes: Tube[]
  /** A fork stands between crown and front axle; without it the pair steers on its own kingpins. */
  fork: boolean
  /** A recumbent seat: its front edge, where pan and back meet, the top of the back. */
  seat: [Pt, Pt, Pt] | null
  cargo: Box[]
  box: { x0: number; x1: number; y1: number }
}
/** A cargo box: along, across, and up from the ground. */
export interface Box {
  x0: number
  x1: number
  y0: number
  y1: number
  half: number
  /** Measured on the vehicle; else where one usually is. */
  known: boolean
}

const rad = (deg: number) => (deg * Math.PI) / 180

/** The side view to scale from the sheet; usual figures where it is silent. */
export function sideView(s: Schemas['Sheet']): SideView {
  const g = s.geometry
  const wheel = (w: Schemas['Wheel']) => {
    const bsd = w?.bsd_mm?.value ?? 622
    return { r: bsd / 2 + (w?.tyre_mm?.value ?? 50), rim: bsd / 2 }
  }
  const rear = { c: { x: 0, y: 0 }, ...wheel(s.rear) }
  rear.c.y = rear.r
  const wheelbase = g?.wheelbase_mm ?? 1090
  const front = { c: { x: wheelbase, y: 0 }, ...wheel(s.front) }
  front.c.y = front.r
  const v =
    s.seat === 'recumbent'
      ? recumbent(s, rear, front)
      : s.kind === 'tadpole'
        ? uprightTadpole(s, rear, front)
        : upright(s, rear, front)
  v.cargo = boxes(s, v)
  v.box.x0 = Math.min(v.box.x0, ...v.cargo.map((c) => c.x0 - 20))
  v.box.x1 = Math.max(v.box.x1, ...v.cargo.map((c) => c.x1 + 20))
  v.box.y1 = Math.max(v.box.y1, ...v.cargo.map((c) => c.y1 + 40))
  return v
}

type End = SideView['rear']
const rearTriangle = (s: Schemas['Sheet'], rear: End) => {
  const g = s.geometry
  const stay = g?.stay_mm ?? 450
  const drop = g?.drop_mm ?? 65
  const seat = rad(g?.seat_deg ?? 73)
  const tube = g?.seat_tube_mm ?? 440
  const bb = { x: Math.sqrt(stay * stay - drop * drop), y: rear.r - drop }
  const post = (d: number) => ({ x: bb.x - Math.cos(seat) * d, y: bb.y + Math.sin(seat) * d })
  return { bb, seatTop: post(tube), saddle: post(tube + 180) }
}

/** A bicycle, or a delta that one sits on as on one: a fork in front. */
function upright(s: Schemas['Sheet'], rear: End, front: End): SideView {
  const g = s.geometry
  const head = rad(g?.head_deg ?? 70.5)
  const fork = g?.fork_mm ?? 430
  const offset = g?.offset_mm ?? 45
  const u = { x: -Math.cos(head), y: Math.sin(head) }
  const n = { x: -Math.sin(head), y: -Math.cos(head) }
  const along = Math.sqrt(fork * fork - offset * offset)
  const crown = { x: front.c.x + u.x * along + n.x * offset, y: front.c.y + u.y * along + n.y * offset }
  const on = (p: Pt, d: number) => ({ x: p.x + u.x * d, y: p.y + u.y * d })
  const headTube = g?.head_tube_mm ?? 150
  const headTop = on(crown, headTube)
  const bars = on(crown, headTube + 70)
  const { bb, seatTop, saddle } = rearTriangle(s, rear)
  const low = s.kind !== 'bicycle'
  return {
    rear,
    front,
    bb,
    crown,
    headTop,
    bars,
    seatTop,
    saddle,
    controller: mid(bb, seatTop, 0.28),
    main: [bb, crown],
    tubes: [
      { q: [rear.c, bb], w: 18 },
      { q: low ? [rear.c, mid(bb, seatTop, 0.6)] : [rear.c, seatTop], w: 15 },
      { q: [bb, seatTop], w: 30 },
      { q: [bb, mid(crown, headTop, 0.2)], w: 36 },
      { q: low ? [mid(bb, seatTop, 0.45), mid(crown, headTop, 0.75)] : [seatTop, mid(crown, headTop, 0.8)], w: 26 },
      { q: [crown, headTop], w: 38 },
    ],
    fork: true,
    seat: null,
    cargo: [],
    box: { x0: -rear.r, x1: front.c.x + front.r, y1: Math.max(bars.y, saddle.y) + 70 },
  }
}

/** A tadpole that one sits upright on: the pair is turned by bars on a pivot behind it. */
function uprightTadpole(s: Schemas['Sheet'], rear: End, front: End): SideView {
  const { bb, seatTop, saddle } = rearTriangle(s, rear)
  const crown = { x: front.c.x - 380, y: front.c.y + 20 }
  const headTop = { x: crown.x - 10, y: crown.y + 200 }
  const bars = { x: crown.x - 70, y: Math.max(saddle.y + 60, headTop.y + 320) }
  return {
    rear,
    front,
    bb,
    crown,
    headTop,
    bars,
    seatTop,
    saddle,
    controller: mid(bb, seatTop, 0.28),
    main: [bb, crown],
    tubes: [
      { q: [rear.c, bb], w: 18 },
      { q: [rear.c, mid(bb, seatTop, 0.7)], w: 15 },
      { q: [bb, seatTop], w: 30 },
      { q: [bb, crown], w: 36 },
      { q: [mid(bb, seatTop, 0.45), headTop], w: 26 },
      { q: [crown, headTop], w: 38 },
      { q: [crown, front.c, { x: front.c.x + front.r * 0.8, y: front.c.y }], w: 24 },
    ],
    fork: false,
    seat: null,
    cargo: [],
    box: { x0: -rear.r, x1: front.c.x + front.r, y1: Math.max(bars.y, saddle.y) + 70 },
  }
}

/** A recumbent: the seat between the axles, the cranks ahead on a boom. */
function recumbent(s: Schemas['Sheet'], rear: End, front: End): SideView {
  const g = s.geometry
  const tadpole = s.kind === 'tadpole'
  const wb = front.c.x
  const pan = g?.seat_mm ?? (tadpole ? 290 : 480)
  const back = rad(g?.seat_deg && g.seat_deg < 70 ? g.seat_deg : tadpole ? 45 : 60)
  const edge = { x: wb * (tadpole ? 0.66 : 0.5), y: pan + 20 }
  const fold = { x: edge.x - 330, y: pan - 20 }
  const top = { x: fold.x - Math.cos(back) * 620, y: fold.y + Math.sin(back) * 620 }
  const under = { x: fold.x + 60, y: pan - 120 }
  const cross = { x: wb, y: front.c.y }
  const crown = tadpole ? { x: wb, y: front.c.y + 40 } : { x: wb - 90, y: 2 * front.r + 40 }
  const headTop = { x: crown.x - (tadpole ? 0 : 45), y: crown.y + 120 }
  const bb = tadpole
    ? { x: wb + (g?.boom_mm ?? 340), y: Math.max(front.r, 300) + 60 }
    : { x: wb + (g?.boom_mm ?? 120), y: headTop.y }
  const bars = tadpole ? { x: edge.x - 90, y: pan + 190 } : { x: edge.x + 40, y: headTop.y + 260 }
  const spine = tadpole ? [rear.c, under, { x: cross.x - 60, y: cross.y - 10 }, bb] : [rear.c, under, crown, bb]
  return {
    rear,
    front,
    bb,
    crown,
    headTop,
    bars,
    seatTop: fold,
    saddle: mid(fold, top, 0.6),
    controller: { x: under.x - 30, y: under.y + 30 },
    main: [under, spine[2]!],
    tubes: [
      { q: spine, w: 38 },
      { q: [under, mid(fold, edge)], w: 20 },
      ...(tadpole ? [] : [{ q: [crown, headTop], w: 38 }]),
    ],
    fork: !tadpole,
    seat: [edge, fold, top],
    cargo: [],
    box: {
      x0: Math.min(-rear.r, top.x - 60),
      x1: Math.max(wb + front.r, bb.x + 190),
      y1: Math.max(top.y, bars.y, 2 * rear.r, 2 * front.r, bb.y + 130) + 70,
    },
  }
}

/** The cargo boxes of the sheet; on a delta one where it usually is. */
function boxes(s: Schemas['Sheet'], v: SideView): Box[] {
  const at = (c: Schemas['CargoBox'], known: boolean): Box => {
    const end = c.end === 'front' ? v.front : v.rear
    const l = c.length_mm ?? 560
    const y0 = c.floor_mm ?? (c.end === 'front' ? end.r * 0.8 : end.r * 1.35)
    return {
      x0: end.c.x - l / 2 + (c.end === 'front' ? 0 : -40),
      x1: end.c.x + l / 2 + (c.end === 'front' ? 0 : -40),
      y0,
      y1: y0 + (c.height_mm ?? 420),
      half: (c.width_mm ?? 520) / 2,
      known,
    }
  }
  const given = (s.cargo ?? []).map((c) => at(c, true))
  if (given.length || s.kind === 'bicycle' || s.seat === 'recumbent') return given
  return [at({ end: s.kind === 'delta' ? 'rear' : 'front' } as Schemas['CargoBox'], false)]
}

/** Where the leads run: from each pack to the controller, on to each motor, and thinner to the bars. */
export function cables(s: Schemas['Sheet'], v: SideView): { q: Pt[]; thin: boolean }[] {
  const out = packsOf(s, v).map((p) => ({ q: [p.at, v.controller], thin: false }))
  for (const d of s.drives ?? []) {
    if (d.kind === 'front_hub')
      out.push({ q: [v.controller, v.main[0], mid(v.main[0], v.main[1], 0.9), v.crown, v.front.c], thin: false })
    else if (d.kind === 'rear_hub')
      out.push({ q: [v.controller, mid(v.controller, v.rear.c, 0.4), v.rear.c], thin: false })
    else out.push({ q: [v.controller, v.bb], thin: false })
  }
  out.push({ q: [v.controller, v.main[0], mid(v.main[0], v.main[1], 0.85), v.headTop, v.bars], thin: true })
  return out
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
    const [a, b] = s.main
    const hold = s.cargo[0]
    if (k.place === 'box' && hold) {
      const at = { x: (hold.x0 + hold.x1) / 2, y: hold.y0 + 60 }
      return { at, a: at, b: { x: at.x + 100, y: at.y }, lift: 0, l: 340, h: 90 }
    }
    if (k.place === 'down_tube') return { at: mid(a, b, 0.5), a, b, lift: 52, l: 360, h: 86 }
    if (s.seat && (k.place === 'seat_tube' || k.place === 'under_seat')) {
      const under = { x: s.seat[1].x + 60, y: s.seat[1].y - 70 }
      return { at: under, a: under, b: { x: under.x + 100, y: under.y }, lift: 0, l: 300, h: 90 }
    }
    if (k.place === 'seat_tube')
      return { at: mid(s.bb, s.seatTop, 0.5), a: s.bb, b: s.seatTop, lift: -55, l: 300, h: 80 }
    const y = trike && k.place !== 'rack' ? s.rear.c.y + s.rear.r * 0.55 : s.rear.c.y + s.rear.r + 60
    return { at: { x: -30, y }, a: { x: -100, y }, b: { x: 100, y }, lift: 0, l: 340, h: 90 }
  })
}

/** The places of the side view. A vehicle on its head has them all the same. */
export function sidePlaces(sheet: Schemas['Sheet'], s: SideView): Places {
  const wheel = (w: SideView['front'], dir: number) => ({ x: w.c.x + dir * w.rim * 0.72, y: w.c.y - w.rim * 0.68 })
  return {
    front_axle: { at: s.front.c, name: $t('front axle') },
    rear_axle: { at: s.rear.c, name: $t('rear axle') },
    front_wheel: { at: wheel(s.front, 1), name: $t('front wheel') },
    rear_wheel: { at: wheel(s.rear, -1), name: $t('rear wheel') },
    rotor: {
      at:
        sheet.front?.brake?.value === 'disc'
          ? { x: s.front.c.x - 66, y: s.front.c.y + 66 }
          : { x: s.rear.c.x + 66, y: s.rear.c.y + 66 },
      name: $t('disc brake'),
    },
    frame: {
      at: s.seat
        ? mid(s.main[0], s.main[1], 0.4)
        : sheet.kind === 'bicycle'
          ? mid(s.seatTop, s.headTop, 0.45)
          : mid(mid(s.bb, s.seatTop, 0.45), s.headTop, 0.5),
      name: $t('frame'),
    },
    head: { at: mid(s.crown, s.headTop), name: $t('head') },
    bars: { at: s.bars, name: $t('bars') },
    left_lever: { at: { x: s.bars.x + 120, y: s.bars.y - 10 }, name: $t('left lever') },
    right_lever: { at: { x: s.bars.x + 60, y: s.bars.y + 46 }, name: $t('right lever') },
    battery: { at: packsOf(sheet, s)[0]?.at ?? mid(s.main[0], s.main[1]), name: $t('battery') },
    controller: { at: { x: s.controller.x - 70, y: s.controller.y }, name: $t('controller') },
    motor: { at: motorPlace(sheet, s), name: $t('motor') },
    cranks: { at: s.bb, name: $t('cranks') },
    harness: { at: mid(s.main[1], s.main[0], 0.22), name: $t('wiring') },
    vehicle: { at: { x: s.saddle.x, y: s.saddle.y }, name: $t('whole vehicle') },
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
    top: Math.max(
      end === 'front' ? s.bars.y + 30 : s.saddle.y + 40,
      s.seat ? s.seat[2].y + 30 : 0,
      ...s.cargo.map((c) => c.y1 + 30),
    ),
    half: Math.max(330, track / 2 + 90 - (pair ? 0 : 120), ...s.cargo.map((c) => c.half + 40)),
  }
}

export function endPlaces(sheet: Schemas['Sheet'], s: SideView, e: EndView): Places {
  const out = e.wheels.at(-1)!
  // Seen from the front, the rider's left stands on the right.
  const left = e.end === 'front' ? 1 : -1
  const places: Places = {
    [`${e.end}_axle`]: {
      at: { x: out + (e.wheels.length > 1 ? -60 : 55), y: e.r },
      name: $t('{end} axle', { end: e.end }),
    },
    [`${e.end}_wheel`]: { at: { x: out, y: e.r * 1.75 }, name: $t('{end} wheel', { end: e.end }) },
  }
  if (sheet[e.end]?.brake?.value === 'disc')
    places.rotor = { at: { x: e.wheels[0]! - 46, y: e.r + 60 }, name: $t('disc brake') }
  if (e.end === 'front') {
    places.left_lever = { at: { x: left * 250, y: s.bars.y - 8 }, name: $t('left lever') }
    places.right_lever = { at: { x: left * -250, y: s.bars.y - 8 }, name: $t('right lever') }
    places.bars = { at: { x: left * -120, y: s.bars.y + 14 }, name: $t('bars') }
    places.head = { at: { x: 0, y: (s.crown.y + s.headTop.y) / 2 }, name: $t('head') }
    places.harness = { at: { x: left * 70, y: s.crown.y + 20 }, name: $t('wiring') }
  } else {
    places.frame = { at: { x: 0, y: s.seatTop.y - 60 }, name: $t('frame') }
    places.vehicle = { at: { x: 0, y: s.saddle.y + 14 }, name: $t('whole vehicle') }
    if ((sheet.packs ?? []).some((k) => ['rack', 'box', 'basket'].includes(k.place)))
      places.battery = { at: { x: 90, y: packsOf(sheet, s)[0]!.at.y }, name: $t('battery') }
  }
  return places
}

/** A trike from above, front at the top: x to the right, y forward from the rear axle. */
export function planPlaces(sheet: Schemas['Sheet'], s: SideView): Places {
  const t = (sheet.geometry?.track_mm ?? 700) / 2
  const wb = s.front.c.x
  const tadpole = sheet.kind === 'tadpole'
  return {
    front_axle: { at: { x: tadpole ? t - 70 : 45, y: wb }, name: $t('front axle') },
    rear_axle: { at: { x: tadpole ? 45 : t - 70, y: 0 }, name: $t('rear axle') },
    front_wheel: { at: { x: tadpole ? t : 0, y: wb + s.front.r * 0.6 }, name: $t('front wheel') },
    rear_wheel: { at: { x: tadpole ? 0 : t, y: -s.rear.r * 0.6 }, name: $t('rear wheel') },
    head: { at: { x: 0, y: s.headTop.x }, name: $t('head') },
    bars: { at: { x: 150, y: s.bars.x }, name: $t('bars') },
    left_lever: { at: { x: -230, y: s.bars.x - 10 }, name: $t('left lever') },
    right_lever: { at: { x: 230, y: s.bars.x - 10 }, name: $t('right lever') },
    frame: { at: { x: 0, y: wb * 0.55 }, name: $t('frame') },
    cranks: { at: { x: 80, y: s.bb.x }, name: $t('cranks') },
    battery: { at: { x: -40, y: packsOf(sheet, s)[0]?.at.x ?? 60 }, name: $t('battery') },
    rotor: { at: { x: tadpole ? -t + 55 : -45, y: wb - 40 }, name: $t('disc brake') },
    vehicle: { at: { x: 0, y: s.saddle.x }, name: $t('whole vehicle') },
    controller: { at: { x: 60, y: s.controller.x }, name: $t('controller') },
    harness: { at: { x: -30, y: wb * 0.72 }, name: $t('wiring') },
    motor: { at: motorAt(sheet, 'front_hub') ? { x: 0, y: wb } : { x: 0, y: 0 }, name: $t('motor') },
  }
}
