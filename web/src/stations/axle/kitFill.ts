import { api, take } from '@/api/client'
import { newId } from '@/state/outbox'

/** Takes from the kit's sheet what it says of a part that was just seen fitted. */
export async function fillFromKit(id: string, drive: number, kit: string | undefined) {
  if (!kit) return
  try {
    await take(api.POST('/api/inspections/{id}/kit', { params: { path: { id } }, body: { id: newId(), kit, drive } }))
  } catch {
    // Out of reach, or no sheet of that name: it is measured, or filled in at intake.
  }
}
