import { $t } from '@/lib/say'
import { shallowRef } from 'vue'
import { usePhotos } from '@/state/photos'
import type { Pt } from '@/parts/geometry'

/** A photo is pinned where it was taken: chosen first, then the place is touched. */
export function usePinning() {
  const { add, busy, problem } = usePhotos()
  const pinning = shallowRef<File | null>(null)
  function chosen(e: Event) {
    const input = e.target as HTMLInputElement
    pinning.value = input.files?.[0] ?? null
    input.value = ''
  }
  async function pinHere(at: Pt) {
    const file = pinning.value
    if (!file) return
    pinning.value = null
    await add([file], {
      view: 'detail',
      caption: $t('along the leads'),
      pin: { x: Math.round(at.x), y: Math.round(at.y) },
    })
  }
  return { pinning, chosen, pinHere, busy, problem }
}
