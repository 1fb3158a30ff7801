import { ref, type Ref } from 'vue'
import type { Pt } from '@/parts/geometry'
import type { Stop } from './harness'

/**
 * Laying a lead: from the node that is held, or chosen first, to the one where it is let go, or that is chosen next.
 */
export function useLaying(
  svg: Readonly<Ref<SVGSVGElement | null>>,
  locked: Readonly<Ref<boolean>>,
  lay: (from: string, to: string) => Promise<void>,
) {
  const from = ref<Stop | null>(null)
  const tip = ref<Pt | null>(null)
  let moved = false
  function toDrawing(e: MouseEvent): Pt {
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.value!.getScreenCTM()!.inverse())
    return { x: p.x, y: p.y }
  }
  function hold(e: PointerEvent, s: Stop) {
    if (locked.value || from.value) return
    moved = false
    from.value = s
    ;(e.currentTarget as Element).releasePointerCapture?.(e.pointerId)
  }
  function drag(e: PointerEvent) {
    if (!from.value || e.buttons === 0) return
    moved = true
    tip.value = toDrawing(e)
  }
  async function letGo(s: Stop | null) {
    const a = from.value
    if (!a || (s === a && !moved)) return // chosen: the next one ends it
    from.value = tip.value = null
    if (s && s !== a) await lay(a.id, s.id)
  }
  /** A click follows each press of a pointer: what it held or dragged is done already. */
  async function choose(s: Stop, clicked = false) {
    if (clicked && (moved || from.value === s)) {
      moved = false
      return
    }
    if (locked.value) return
    const a = from.value
    from.value = a ? null : s
    if (a && a !== s) await lay(a.id, s.id)
  }
  return { from, tip, toDrawing, hold, drag, letGo, choose }
}
