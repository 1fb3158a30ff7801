/** Prints one part of a page alone: what bears data-print with that name. */
export function printOnly(name: string) {
  const root = document.documentElement
  root.dataset.printOnly = name
  for (const e of document.querySelectorAll<HTMLElement>(`[data-print="${name}"]`)) {
    e.classList.add('printed')
    for (let up = e.parentElement; up; up = up.parentElement) up.classList.add('around-printed')
  }
  window.print()
  delete root.dataset.printOnly
  document.querySelectorAll('.printed, .around-printed').forEach((e) => e.classList.remove('printed', 'around-printed'))
}
