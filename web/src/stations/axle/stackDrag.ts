import Sortable from 'sortablejs'
import { nextTick, onBeforeUnmount, watch, type Ref } from 'vue'
import type { Side } from './stack'

/**
 * Dragging parts of the stack: within a side, from one side to the other, or new ones from the tray. The library moves
 * the element, we put it back and move the part: `part` is its place where it came from, in the tray without a `from`.
 */
export function useStackDrag(
  box: Readonly<Ref<HTMLElement | null>>,
  locked: Readonly<Ref<boolean>>,
  moved: (part: number, from: Side | undefined, to: Side, place: number) => Promise<void>,
) {
  let lists: Sortable[] = []
  async function dropped(e: Sortable.SortableEvent) {
    const to = e.to.dataset.side as Side | undefined
    const from = e.from.dataset.side as Side | undefined
    const { newDraggableIndex: n, oldDraggableIndex: o } = e
    e.item.remove()
    const cloned = e.from !== e.to && e.pullMode === 'clone'
    if (cloned && e.clone.isConnected) e.clone.replaceWith(e.item)
    if (!cloned) e.from.insertBefore(e.item, e.from.children[o!] ?? null)
    if (to && n !== undefined && o !== undefined) await moved(o, from, to, n)
  }
  function drop() {
    lists.forEach((l) => l.destroy())
    lists = []
  }
  function arm() {
    drop()
    if (!box.value || locked.value) return
    const common = { draggable: 'li', forceFallback: true, onEnd: (e: Sortable.SortableEvent) => void dropped(e) }
    for (const el of box.value.querySelectorAll<HTMLElement>('[data-side]'))
      lists.push(Sortable.create(el, { ...common, group: 'stack', animation: 120 }))
    const tray = box.value.querySelector<HTMLElement>('[data-tray]')
    if (tray)
      lists.push(
        Sortable.create(tray, {
          ...common,
          group: { name: 'stack', pull: 'clone', put: false },
          sort: false,
          filter: 'button',
          preventOnFilter: false,
        }),
      )
  }
  watch([box, locked], () => void nextTick(arm), { immediate: true, flush: 'post' })
  onBeforeUnmount(drop)
}
