import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import type { Schemas } from '@/api/client'
import { mid, packsOf, sideView, type Pt, type SideView } from '@/parts/geometry'
import { bare, withUnit } from '@/state/units'

type Sheet = Schemas['Sheet']
/** Something that leads join, with its place on the drawing. */
export interface Stop {
  id: string
  title: string
  at: Pt
}

/** What stands where: packs, controllers and motors by the sheet, joints and the combiner as leads name them. */
export function stops(sheet: Sheet, nodes: Schemas['WiringNode'][]): Stop[] {
  const v = sideView(sheet)
  const packs = packsOf(sheet, v)
  const drives = sheet.drives ?? []
  const same = new Map<string, number>()
  return nodes.map((n) => {
    const i = Number(n.id.split('.')[1] ?? 0)
    let at = v.controller
    if (n.kind === 'pack') at = lifted(packs[i])
    else if (n.kind === 'motor')
      at = drives[i]?.kind === 'front_hub' ? v.front.c : drives[i]?.kind === 'rear_hub' ? v.rear.c : v.bb
    else if (n.kind === 'controller') at = { x: v.controller.x - 60, y: v.controller.y + i * 150 }
    else if (n.kind === 'light')
      at =
        sheet.lights?.[i]?.place === 'rear'
          ? { x: v.rear.c.x + 40, y: v.rear.c.y + 330 }
          : { x: v.headTop.x + 70, y: v.headTop.y }
    else if (n.kind === 'combiner') at = { x: v.controller.x - 170, y: v.controller.y + 210 }
    else at = { x: v.controller.x - 190 + 90 * (i % 3), y: v.controller.y - 120 - 110 * Math.floor(i / 3) }
    // What lies on the same spot is set apart.
    const spot = `${Math.round(at.x / 60)} ${Math.round(at.y / 60)}`
    const k = same.get(spot) ?? 0
    same.set(spot, k + 1)
    return { id: n.id, title: n.title, at: { x: at.x + 40 * k, y: at.y + 130 * k } }
  })
}
function lifted(p: ReturnType<typeof packsOf>[number] | undefined): Pt {
  if (!p) return { x: 0, y: 0 }
  const d = Math.hypot(p.b.x - p.a.x, p.b.y - p.a.y) || 1
  return { x: p.at.x - ((p.b.y - p.a.y) / d) * p.lift, y: p.at.y + ((p.b.x - p.a.x) / d) * p.lift }
}

/** The way of a lead along the frame; the n-th of those that join the same two beside the others. */
export function way(a: Stop, b: Stop, v: SideView, n: number): Pt[] {
  const off = (q: Pt): Pt => ({ x: q.x + 26 * n, y: q.y + 26 * n })
  const motor = [a, b].find((s) => s.id.startsWith('motor'))
  if (motor && motor.at.x === v.front.c.x && v.fork) {
    const along = [v.main[0], mid(v.main[0], v.main[1], 0.9), v.crown].map(off)
    return motor === b ? [a.at, ...along, b.at] : [a.at, ...along.reverse(), b.at]
  }
  return n ? [a.at, off(mid(a.at, b.at)), b.at] : [a.at, b.at]
}

/** The thin leads, by what the sheet says of them: from the controller to the bars and to the cranks. */
export function signals(sheet: Sheet, v: SideView): { q: Pt[]; words: string; beside: boolean }[] {
  const out = []
  const lever = (side: 'left' | 'right') => {
    const l = sheet.levers?.[side]
    const kind = l?.switch?.value
    return l?.fitted?.value === 'no' || !kind
      ? ''
      : kind === 'none'
        ? $t('no switch {side}', { side: term(side) })
        : $t('{kind} switch {side}', { kind: term(kind), side: term(side) })
  }
  const bars = [
    lever('left'),
    lever('right'),
    sheet.throttle?.value && sheet.throttle.value !== 'none'
      ? $t('{throttle} throttle', { throttle: sheet.throttle.value })
      : '',
  ]
  const far = [v.controller, v.main[0], mid(v.main[0], v.main[1], 0.85), v.headTop, v.bars]
  if (bars.some(Boolean)) out.push({ q: far, words: bars.filter(Boolean).join(', '), beside: false })
  if (sheet.pedal_sensor) out.push({ q: [v.controller, v.bb], words: $t('pedal sensor'), beside: true })
  return out
}

/** The leads that nearly every such vehicle has: each pack to its controller, several over a combiner. */
export function usual(sheet: Sheet): { from: string; to: string }[] {
  const packs = (sheet.packs ?? []).map((_, i) => `pack.${i}`)
  const controllers = (sheet.drives ?? []).map((_, i) => `controller.${i}`)
  if (packs.length === 1 && controllers.length === 1) return [{ from: packs[0]!, to: controllers[0]! }]
  const hub = packs.length > 1 ? 'combiner' : 'joint.0'
  return [...packs.map((p) => ({ from: p, to: hub })), ...controllers.map((c) => ({ from: hub, to: c }))]
}

/** How a node is called. */
export const called = (id: string) => {
  const [kind, n] = id.split('.') as [string, string?]
  return n ? `${term(kind)} ${Number(n) + 1}` : term(kind)
}

/** What an end may be on this vehicle: the next joint can always be made. */
export function ends(sheet: Sheet): string[] {
  const joints = (sheet.leads ?? []).flatMap((l) => [l.from, l.to]).filter((e) => e?.startsWith('joint.'))
  const next = Math.max(-1, ...joints.map((j) => Number(j!.slice(6)))) + 1
  return [
    ...(sheet.packs ?? []).map((_, i) => `pack.${i}`),
    ...['combiner', 'combiner.1', 'combiner.2'].slice(0, Math.max(1, sheet.combiners?.length ?? 0)),
    ...Array.from({ length: Math.min(6, next + 1) }, (_, i) => `joint.${i}`),
    ...(sheet.drives ?? []).flatMap((_, i) => [`controller.${i}`, `motor.${i}`]),
    ...(sheet.lights ?? []).map((_, i) => `light.${i}`),
  ]
}

/** The leads that pass a place of the walk, with their number where they are listed: each is followed along its way. */
export function passing(sheet: Sheet, zone: string): { lead: number | null; title: string }[] {
  const kind = (end: string | undefined) => end?.split('.')[0] ?? ''
  const frontHub = (end: string | undefined) =>
    kind(end) === 'motor' && sheet.drives?.[Number(end!.slice(6))]?.kind === 'front_hub'
  const listed = (sheet.leads ?? []).map((l, i) => ({ i, from: l.from, to: l.to, kinds: [kind(l.from), kind(l.to)] }))
  const here = listed.filter(({ from, to, kinds }) => {
    if (!from || !to) return false
    if (zone === 'controller') return kinds.includes('controller')
    if (zone === 'battery') return kinds.includes('pack') || kinds.includes('combiner')
    if (zone === 'head') return frontHub(from) || frontHub(to)
    if (zone === 'frame') return kinds[0] !== kinds[1]
    return false
  })
  const out: { lead: number | null; title: string }[] = here.map((l) => ({
    lead: l.i,
    title: $t('{from} to {to}', { from: called(l.from ?? ''), to: called(l.to ?? '') }),
  }))
  if (zone === 'bars' || zone === 'head' || zone === 'controller')
    for (const t of signals(sheet, sideView(sheet)))
      if (zone === 'controller' || t.words !== $t('pedal sensor')) out.push({ lead: null, title: t.words })
  return out
}

/** A lead as the map draws it. */
export interface DrawnLead {
  i: number
  title: string
  ends: boolean // both are named
  q: Pt[]
  label: Pt | null // where its words stand
  area: number | null
  warm: number | null | undefined // °C at the peak; null: it burns; undefined: not known
  amps: number | null
  fuse: number | null
  plug: number | null
  bad: boolean
  state: string | undefined
}

export const wordsOf = (l: DrawnLead) =>
  [
    l.area ? `${bare(l.area, 'mm²')} mm²` : $t('copper not measured'),
    l.amps ? withUnit(l.amps, 'A') : '',
    l.plug ? $t('plug {plug}', { plug: withUnit(l.plug, 'A') }) : '',
    l.warm === null ? 'burns' : l.warm !== undefined ? withUnit(l.warm, '°C') : '',
  ]
    .filter(Boolean)
    .join(' · ')

/** Where a lead's words stand: beside the middle of its longest stretch, above it. */
export function middleOf(q: Pt[], far: number): Pt {
  const [a, b] = longest(q)
  const d = Math.hypot(b.x - a.x, b.y - a.y) || 1
  const up = b.x >= a.x ? 1 : -1
  const n = { x: (-(b.y - a.y) / d) * up, y: ((b.x - a.x) / d) * up }
  return { x: (a.x + b.x) / 2 + n.x * far, y: (a.y + b.y) / 2 + n.y * far }
}

function longest(q: Pt[]): [Pt, Pt] {
  const far = (k: number) => Math.hypot(q[k + 1]!.x - q[k]!.x, q[k + 1]!.y - q[k]!.y)
  let best = 0
  for (let k = 1; k < q.length - 1; k++) if (far(k) > far(best)) best = k
  return [q[best]!, q[best + 1]!]
}
