import { $t } from '@/lib/say'
import type { RouteLocationRaw } from 'vue-router'
import type { CheckState } from '@/api/client'

/** Where the work of a gate is done. */
export function gatePlace(id: string, gate: number): RouteLocationRaw {
  const params = { id }
  switch (gate) {
    case 1:
      return { name: 'intake', params }
    case 3:
      return { name: 'ledger', params }
    case 6:
      return { name: 'bench', params }
    case 9:
      return { name: 'verdict', params }
  }
  return { name: 'walk', params: { id, gate: String(gate) } }
}

/** Where a check is done; the walk-round and the ledger open it. */
export function checkPlace(
  id: string,
  c: Pick<CheckState, 'id' | 'gate' | 'calc'> & { by_bench?: boolean },
): RouteLocationRaw {
  const to =
    c.calc === 'cutoff-trace' || c.by_bench ? gatePlace(id, 6) : c.gate === 6 ? walk(id, 6) : gatePlace(id, c.gate)
  return typeof to === 'string' ? to : { ...to, query: { check: c.id } }
}

const walk = (id: string, gate: number) => ({ name: 'walk', params: { id, gate: String(gate) } })

/** The next check of a list that waits for an eye, after one that is done; from the top if none follows. */
export function nextOpen(checks: readonly CheckState[], after: string): CheckState | undefined {
  const i = checks.findIndex((c) => c.id === after)
  const open = (c: CheckState) =>
    c.outcome === 'open' && !c.answer && !c.by_bench && (c.kind === 'look' || c.looked) && c.id !== after
  return checks.slice(i + 1).find(open) ?? checks.find(open)
}

const stations: Record<string, string> = {
  intake: 'intake',
  axle: $t('the axle bench'),
  mid: $t('the mid-drive bench'),
  ledger: $t('the torque ledger'),
  bench: $t('the cutoff bench'),
  verdict: $t('the verdict'),
}

/** How a station is called, from the address of its page: gate/4, axle/1, verdict. */
export function placeWords(place: string): string {
  const [head, which] = place.split('/')
  if (head === 'gate') return $t('gate {which}', { which })
  return stations[head ?? ''] ?? $t('the door')
}
