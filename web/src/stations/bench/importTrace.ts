import { $t } from '@/lib/say'
import type { Problem, Schemas } from '@/api/client'

type Line = Schemas['ImportLine']

/**
 * Sends a trace file and reads the answer line by line. It takes an
 * XMLHttpRequest because that alone tells of the sending as well as of the
 * answer while it comes.
 */
export function importTrace(file: File, onProgress: (share: number, what: string) => void) {
  const xhr = new XMLHttpRequest()
  const done = new Promise<Line>((resolve, reject) => {
    let read = 0
    let last: Line | null = null
    xhr.open('POST', `/api/traces?name=${encodeURIComponent(file.name)}`)
    xhr.setRequestHeader('Content-Type', 'text/csv')
    xhr.upload.onprogress = (e) => onProgress(0.5 * (e.loaded / Math.max(1, e.total)), 'sending')
    xhr.onprogress = () => {
      const end = xhr.responseText.lastIndexOf('\n')
      for (const l of xhr.responseText.slice(read, end).split('\n')) {
        if (!l.trim()) continue
        last = JSON.parse(l) as Line
        onProgress(0.5 + 0.5 * last.done, 'reading')
      }
      read = end + 1
    }
    xhr.onload = () => {
      if (xhr.status !== 200) {
        reject(new Error((JSON.parse(xhr.responseText || '{}') as Problem).detail ?? $t('the server refused the file')))
      } else if (last?.problem) {
        reject(new Error(last.problem.detail ?? last.problem.title))
      } else if (last?.sha256) resolve(last)
      else reject(new Error($t('the answer ended early; nothing was stored')))
    }
    xhr.onerror = () => reject(new Error($t('the server is away; nothing was stored')))
    xhr.onabort = () => reject(new DOMException('stopped', 'AbortError'))
    xhr.send(file)
  })
  return { done, cancel: () => xhr.abort() }
}
