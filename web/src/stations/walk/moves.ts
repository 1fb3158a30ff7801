import { $t } from '@/lib/say'
import { computed, ref, type Ref } from 'vue'
import { withUnit } from '@/state/units'

/** How far a load is tried from where it is, in mm. */
export interface Moved {
  back: number
  right: number
  up: number
}

/**
 * What is tried on the trike's plan: loads moved by pointer or arrow keys, each within what a trike is long, wide and
 * high. scale is the drawing's pixels to a mm.
 */
export function useMoves(svg: Readonly<Ref<SVGSVGElement | null>>, scale: () => number) {
  const moves = ref<Record<string, Moved>>({})
  const at = (load: string): Moved => moves.value[load] ?? { back: 0, right: 0, up: 0 }
  const within = (v: number, most: number) => Math.round(Math.max(-most, Math.min(most, v)))
  function place(load: string, m: Partial<Moved>) {
    const now = { ...at(load), ...m }
    moves.value = {
      ...moves.value,
      [load]: { back: within(now.back, 1200), right: within(now.right, 500), up: within(now.up, 800) },
    }
  }
  const where = (load: string) => {
    const { back, right, up } = at(load)
    const say = (v: number, more: string, less: string) =>
      v ? `${withUnit(Math.abs(v), 'mm')} ${v > 0 ? more : less}` : ''
    return (
      [say(back, 'back', 'forward'), say(right, $t('to the right'), $t('to the left')), say(up, 'higher', 'lower')]
        .filter(Boolean)
        .join(', ') || $t('where it is')
    )
  }
  const picked = ref<string | null>(null)
  let start: { load: string; x: number; y: number; from: Moved } | null = null
  const onPlan = (e: PointerEvent) => {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.value!.getScreenCTM()!.inverse())
    return { x: p.x, y: p.y }
  }
  function hold(e: PointerEvent, load: string) {
    ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
    picked.value = load
    start = { load, ...onPlan(e), from: at(load) }
  }
  function drag(e: PointerEvent) {
    if (!start) return
    const p = onPlan(e)
    place(start.load, {
      back: start.from.back + (p.y - start.y) / scale(),
      right: start.from.right + (p.x - start.x) / scale(),
    })
  }
  function letGo() {
    start = null
  }
  function nudge(e: KeyboardEvent, load: string) {
    const step = { ArrowUp: [-20, 0], ArrowDown: [20, 0], ArrowLeft: [0, -20], ArrowRight: [0, 20] }[e.key]
    if (!step) return
    e.preventDefault()
    picked.value = load
    const m = at(load)
    place(load, { back: m.back + step[0]!, right: m.right + step[1]! })
  }
  const isMoved = computed(() => Object.values(moves.value).some((m) => m.back || m.right || m.up))
  return { moves, at, place, where, isMoved, picked, hold, drag, letGo, nudge }
}
