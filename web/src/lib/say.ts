/**
 * What is said on the screens, in the language of the workshop. The English texts stand where
 * they are said and are the keys of every other language (docs/decisions/28-words-in-another-language.md).
 */
const language = document.documentElement.lang
/** How dates and times are written. */
export const locale = language === 'en' ? 'en-GB' : language

const texts = new Map(
  language === 'en'
    ? []
    : await fetch('/api/words')
        .then(async (r) => Object.entries((await r.json()) as Record<string, string>))
        .catch(() => []), // English is better than nothing
)

/** A text in the language spoken, its places in braces filled in by name. */
export function $t(english: string, filled: Record<string, unknown> = {}): string {
  return (texts.get(english) ?? english).replace(/\{(\w+)\}/g, (place, name: string) =>
    Object.hasOwn(filled, name) ? String(filled[name] ?? '') : place,
  )
}

declare module 'vue' {
  interface ComponentCustomProperties {
    $t: typeof $t
  }
}
