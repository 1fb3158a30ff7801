import { $t } from '@/lib/say'
import type { Field, Tool } from '@/api/client'

/** Where a figure or a word comes from, in words. */
export const sourceWord: Record<string, string> = {
  kit_sheet: $t('kit sheet'),
  label: $t('label'),
  measured: $t('measured'),
  seen: $t('seen'),
  counted: $t('counted'),
  stated: $t('said by owner or rider'),
  house: $t('house figure'),
  recorded: $t('recorded'),
  guessed: $t('guess, settles nothing'),
}

const leaves = ['figure', 'fact', 'number', 'integer', 'string']

/** Whether what stands at a field carries a source. Under "given" every number and word does. */
export function carriesSource(f: Field | undefined, path: string): boolean {
  if (!f) return false
  return f.kind === 'figure' || f.kind === 'fact' || (path.startsWith('given.') && leaves.includes(f.kind))
}

/** Whether it is a number that a tool could read. */
export function isFigure(f: Field | undefined, path: string): boolean {
  if (!f) return false
  return f.kind === 'figure' || (path.startsWith('given.') && (f.kind === 'number' || f.kind === 'integer'))
}

/** A figure of the house policy, that nobody types. */
export const ofTheHouse = (f: Field) => f.from?.length === 1 && f.from[0] === 'house'

/** The sources a person may name for a field, a tool's apart. What settles nothing is a guess. */
export function sayable(f: Field, figure: boolean): string[] {
  const from = (f.from ?? []).filter((s) => s !== 'house' && s !== 'recorded' && !(figure && s === 'measured'))
  return [...from, 'guessed']
}

/** The tools that may read a field at what is aimed for: valid ones first, the finest first. */
export function suitedTools(tools: Tool[], f: Field | undefined, aim?: number | null): Tool[] {
  const unit = f?.unit
  if (!unit || !f?.from?.includes('measured')) return []
  const reaches = (t: Tool) => aim == null || t.reach_max == null || (aim >= t.reach_min! && aim <= t.reach_max)
  const fine = (t: Tool) =>
    t.unit !== unit ? Infinity : t.error_pct ? (t.error_pct / 100) * (aim ?? t.max ?? 1) : (t.a_abs ?? 0)
  return tools
    .filter((t) => (t.reads?.includes(unit) || f.tools?.includes(t.kind)) && reaches(t))
    .sort((a, b) => Number(a.lapsed) - Number(b.lapsed) || fine(a) - fine(b))
}

/** A source as it is chosen: a word, or the tool that was read. */
export const toolChoice = (id: string) => `tool:${id}`
export function chosen(choice: string): { source: string; instrument?: string } {
  return choice.startsWith('tool:') ? { source: 'measured', instrument: choice.slice(5) } : { source: choice }
}

/** The part whose label a photo shows: a pack, a motor, a lead, a wheel, else the thing itself. */
export function labelPart(path: string): string {
  const [head, n] = path.split('.')
  if (head === 'packs' || head === 'drives' || head === 'leads') return `${head}.${n}`
  if (head === 'given') return `given.${n}`
  return head === 'front' || head === 'rear' || head === 'use' ? head : path
}

/** Why a tool cannot have read a value; empty if it can. */
export function beyond(tools: Tool[], id: string | undefined, unit: string | undefined, v: number): string {
  const t = tools.find((x) => x.id === id)
  if (!t || t.unit !== unit || t.reach_max == null) return ''
  const least = t.reach_min ?? 0
  if (Math.abs(v) <= t.reach_max && Math.abs(v) >= least) return ''
  return $t('{id} reads {least} {reach_max} {unit}: choose the tool that was used.', {
    id: t.id,
    least: least ? $t('{least} to', { least }) : $t('up to'),
    reach_max: t.reach_max,
    unit: t.unit,
  })
}

/** The key of a field and its twins on the other side, wheel, pack or lead: where one is read, so is the other. */
export const twins = (path: string) => path.replace(/\d+/g, '#').replace(/(^|\.)(left|right|front|rear)(?=\.)/g, '$1*')
/** The key of where words, or figures that no tool reads, come from. */
export const tellers = (figure: boolean) => (figure ? $t('told figures') : $t('told words'))

/** What a field would be read or told by with what is in hand; empty if that does not fit it. */
export function atHand(
  tools: Tool[],
  f: Field | undefined,
  path: string,
  figure: boolean,
  hand: Record<string, string>,
): string {
  if (!f) return ''
  const twin = hand[twins(path)]
  if (twin && sayable(f, figure).includes(twin)) return twin
  const suited = figure ? suitedTools(tools, f) : []
  const inHand = hand[f.unit ?? '']
  if (inHand && suited.some((t) => t.id === inHand)) return toolChoice(inHand)
  const can = sayable(f, figure).filter((s) => s !== 'guessed')
  const told = hand[tellers(figure)] ?? ''
  return can.includes(told) ? told : can.length === 1 && !suited.length ? can[0]! : ''
}
