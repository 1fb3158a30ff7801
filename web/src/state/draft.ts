import { ref, watch, type Ref } from 'vue'

const PREFIX = 'jg-draft:'

/** What is typed and not handed in yet; a reload or a closed tab does not lose it. */
export function useDraft(key: () => string): Ref<string> {
  const of = () => PREFIX + key()
  const text = ref(localStorage.getItem(of()) ?? '')
  watch(key, () => (text.value = localStorage.getItem(of()) ?? ''))
  watch(
    text,
    (t) => {
      if (t) localStorage.setItem(of(), t)
      else localStorage.removeItem(of())
    },
    { flush: 'sync' },
  )
  return text
}
