import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from './inspection'

/** Hands in pictures, one after the other, and says what each shows. One that cannot be sent waits with the entries. */
export function usePhotos() {
  const { say, problem: refused } = useInspection()
  const busy = ref(0)
  const problem = ref('')
  async function add(files: Iterable<File>, what: Omit<Schemas['Photo'], 'sha256'>) {
    problem.value = ''
    for (const f of files) {
      busy.value++
      const stored = await say('photo', what, undefined, f)
      if (!stored && refused.value) problem.value = `${f.name}: ${refused.value}`
      busy.value--
    }
  }
  return { add, busy, problem }
}

export const thumbnail = (sha: string) => `/api/photos/${sha}/thumbnail`
export const picture = (sha: string) => `/api/photos/${sha}`
