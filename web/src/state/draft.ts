import { ref, watch, type Ref } from 'vue'
import { parseNumber } from '@/lib/number'
import { shown, stored, tableThere } from './units'
import { units } from './session'

const PREFIX = 'jg-draft:'
/** Stands between the text and the units in which it was typed. */
const MARK = '\u0001'

/**
 * What is typed and not handed in yet; a reload or a closed tab does not lose it. A number that was typed in one
 * system of units is shown in the other when the screen is switched: it stays the same quantity.
 */
export function useDraft(key: () => string, unit?: () => string | undefined): Ref<string> {
  const of = () => PREFIX + key()
  function read(): string {
    const [text = '', system] = (localStorage.getItem(of()) ?? '').split(MARK)
    const n = parseNumber(text)
    const u = unit?.()
    if (!system || system === units.value || n === undefined || !u || !tableThere.value) return text
    const metric = units.value === 'us' ? n : stored(n, u, 'us')
    return String(Number(shown(metric, u).toPrecision(5)))
  }
  const text = ref(read())
  watch([key, units, tableThere, () => unit?.()], () => (text.value = read()))
  watch(
    text,
    (t) => {
      if (!t) localStorage.removeItem(of())
      // What was only turned into other units keeps the words in which it was typed.
      else if (t !== read()) localStorage.setItem(of(), unit ? t + MARK + units.value : t)
    },
    { flush: 'sync' },
  )
  return text
}
