import { $t } from '@/lib/say'
import { computed, type InjectionKey, type Ref } from 'vue'
import { isCollection, isMap, parseDocument } from 'yaml'
import type { Field } from '@/api/client'

/** A way into a pack: names of fields and places in lists. */
export type Way = (string | number)[]

/**
 * A rule pack's text, read and changed field by field. The text stays what it is: its order and its comments are kept,
 * so that form and text are the same thing.
 */
export function usePackText(text: Ref<string>) {
  const doc = computed(() => parseDocument(text.value))
  /** Why the text cannot be shown as a form; empty if it can. */
  const unreadable = computed(() => {
    const e = doc.value.errors[0]
    if (e) return e.message.split('\n')[0]!
    return isMap(doc.value.contents) ? '' : $t('it does not hold fields with values')
  })
  const tree = computed(() => (unreadable.value ? {} : (doc.value.toJS({ maxAliasCount: 20 }) as unknown)))
  function get(way: Way): unknown {
    let v = tree.value
    for (const k of way) v = (v as Record<string | number, unknown> | null | undefined)?.[k]
    return v
  }
  /** Changes several places at once; nothing, or an empty word, takes a place out. */
  function put(...changes: [Way, unknown][]) {
    const d = parseDocument(text.value)
    for (const [way, value] of changes) {
      if (value === undefined || value === '') {
        d.deleteIn(way)
        continue
      }
      // What is on the way there and no collection, a bare name with nothing behind it, becomes one.
      for (let n = 1; n < way.length; n++) {
        const at = way.slice(0, n)
        if (!isCollection(d.getIn(at))) d.setIn(at, d.createNode(typeof way[n] === 'number' ? [] : {}))
      }
      d.setIn(way, typeof value === 'object' ? d.createNode(value) : value)
    }
    text.value = d.toString({ lineWidth: 0, flowCollectionPadding: false })
  }
  return { unreadable, get, put }
}
export type PackText = ReturnType<typeof usePackText>
/** The pack that is worked on, and what the server found wrong in it, by field. */
export const packKey: InjectionKey<{ pack: PackText; wrong: Ref<Record<string, string>> }> = Symbol('pack')

/** What a class says of a requirement, exactly one of them. */
export const answers = {
  asks: 'asks',
  free: $t('asks nothing, the law was read'),
  unsure: $t('not read, or not certain'),
} as const
export type Answer = keyof typeof answers | ''

const aside = [
  'id,name,source,from,until,first_use_before,first_use_from',
  'free,unsure,facts,equipment,label,rider,shop,settled_by',
].map((l) => l.split(','))
/** The fields of a class: what it is called and when it holds; what it asks; what goes with it. */
export const head = (fields: Field[]) => fields.filter((f) => aside[0]!.includes(f.name))
export const asked = (fields: Field[]) => fields.filter((f) => !aside.flat().includes(f.name))
export const rest = (fields: Field[]) =>
  fields.filter((f) => aside[1]!.includes(f.name) && !['free', 'unsure', 'facts'].includes(f.name))

type Unsure = { field: string; question: string }
const list = <T>(v: unknown) => (Array.isArray(v) ? (v as T[]) : [])

/** How a class answers to a requirement now. */
export function answerOf(pack: PackText, cls: Way, name: string): Answer {
  if (list<string>(pack.get([...cls, 'free'])).includes(name)) return 'free'
  if (list<Unsure>(pack.get([...cls, 'unsure'])).some((u) => u?.field === name)) return 'unsure'
  const v = pack.get([...cls, name])
  return v === undefined || v === null ? '' : 'asks'
}

/** Answers a requirement otherwise; what it was answered before goes. */
export function answer(pack: PackText, cls: Way, f: Field, to: Answer) {
  const free = list<string>(pack.get([...cls, 'free'])).filter((n) => n !== f.name)
  const unsure = list<Unsure>(pack.get([...cls, 'unsure'])).filter((u) => u?.field !== f.name)
  if (to === 'free') free.push(f.name)
  if (to === 'unsure')
    unsure.push({ field: f.name, question: $t('What does the law say of: {doc}?', { doc: f.doc ?? f.name }) })
  const empty = f.kind === 'boolean' ? true : f.kind === 'object' ? {} : f.enum?.[0]
  pack.put(
    [[...cls, 'free'], free.length ? free : undefined],
    [[...cls, 'unsure'], unsure.length ? unsure : undefined],
    [[...cls, f.name], to === 'asks' ? empty : undefined],
  )
}

/** Where the question of what is not certain stands. */
export function questionWay(pack: PackText, cls: Way, name: string): Way {
  const n = list<Unsure>(pack.get([...cls, 'unsure'])).findIndex((u) => u?.field === name)
  return [...cls, 'unsure', n, 'question']
}
