/** What stands at a dotted path of the sheet. */
export function at(sheet: unknown, path: string): unknown {
  let v = sheet
  for (const k of path.split('.')) v = (v as Record<string, unknown> | null | undefined)?.[k]
  return v
}

/** A part of the sheet as it is handed in: without what was left empty. */
export function plain<T>(v: T): unknown {
  if (Array.isArray(v)) return v.map((x) => plain(x))
  if (v === null || typeof v !== 'object') return v
  const out: Record<string, unknown> = {}
  for (const [k, x] of Object.entries(v)) {
    const p = plain(x)
    if (p === null || p === undefined || p === '') continue
    // A figure or a word that nobody gave.
    if (typeof p === 'object' && !Array.isArray(p) && x && 'value' in (x as object) && !('value' in p)) continue
    out[k] = p
  }
  return out
}

/** A list without its i-th item, as it is handed in. */
export const without = <T>(list: readonly T[] | null | undefined, i: number) =>
  plain((list ?? []).filter((_, k) => k !== i))
