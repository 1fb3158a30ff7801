/** Brings what was asked for into view, in the middle if it is out of it, and gives it the focus. */
export function show(el: HTMLElement | null | undefined) {
  if (!el) return
  const box = el.getBoundingClientRect()
  const inView = box.top >= 60 && box.bottom <= window.innerHeight - 60
  if (!inView) el.scrollIntoView({ block: 'center' })
  el.focus({ preventScroll: true })
}
