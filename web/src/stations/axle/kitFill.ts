import { api, take } from '@/api/client'
import { batch, newId } from '@/state/outbox'

/** Takes from the kit's sheet, where the library has one, what it says of a part that was just seen fitted. */
export async function fillFromKit(id: string, drive: number, kit: string | undefined) {
  if (!kit) return
  try {
    const known = (await take(api.GET('/api/kits'))).some((k) => k.kit.name === kit)
    if (known)
      await batch(id, () =>
        take(api.POST('/api/inspections/{id}/kit', { params: { path: { id } }, body: { id: newId(), kit, drive } })),
      )
  } catch {
    // Out of reach: it is measured, or filled in at intake.
  }
}
