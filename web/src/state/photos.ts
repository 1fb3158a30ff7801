import { ref } from 'vue'
import { sendFile, type Schemas } from '@/api/client'
import { useInspection } from './inspection'

/** Hands in pictures, one after the other, and says what each shows. */
export function usePhotos() {
  const { say } = useInspection()
  const busy = ref(0)
  const problem = ref('')
  async function add(files: Iterable<File>, what: { check?: string; view?: string; path?: string; caption?: string }) {
    problem.value = ''
    for (const f of files) {
      busy.value++
      try {
        const stored = await sendFile<Schemas['Stored']>('/api/photos', f, 'application/octet-stream')
        await say('photo', { sha256: stored.sha256, ...what })
      } catch (e) {
        problem.value = `${f.name}: ${(e as Error).message}`
      } finally {
        busy.value--
      }
    }
  }
  return { add, busy, problem }
}

export const thumbnail = (sha: string) => `/api/photos/${sha}/thumbnail`
export const picture = (sha: string) => `/api/photos/${sha}`
