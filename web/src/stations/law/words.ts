import type { Schemas } from '@/api/client'
import { $t } from '@/lib/say'
import { term } from '@/lib/words'
import { bounds } from '@/lib/told'
import { bare, inMiles, withUnit } from '@/state/units'

/** What a class asks for, by its id. */
export const asks: Record<string, string> = {
  power: $t('power'),
  assist: $t('assistance ends at'),
  fade: $t('assistance fades out'),
  pedal_stop: $t('drive stops with the pedals'),
  throttle: $t('throttle'),
  walk: $t('walking help'),
  pedals: $t('pedals that can propel it'),
  ratio: $t('assistance beyond the rider’s own effort'),
  wheels: $t('wheels'),
  mass: $t('mass'),
  size: $t('sizes'),
  stop: $t('stopping distance'),
  tamper: $t('limits that cannot be lifted'),
  motor_off: $t('what ends the drive'),
  paper: $t('papers'),
  first_use: $t('first use'),
  equipment: $t('equipment that makes the class'),
}

/** How a requirement stands. */
export const result: Record<string, string> = {
  pass: $t('met'),
  fail: $t('not met'),
  doubt_in: $t('not sure, probably met'),
  doubt_out: $t('not sure, probably not'),
  unknown: $t('not known'),
}

type Requirement = Schemas['Requirement']

/** What it asks, in the words of the figure that it is about. */
export const what = (r: Requirement) => (r.id === 'equipment' ? term(r.what) : r.what)

/** A count has no unit, and no places behind the point. */
const write = {
  bare: (v: number | null, unit?: string) => (unit ? bare(v, unit) : String(v)),
  full: (v: number | null, unit?: string) => (unit ? withUnit(v, unit) : String(v)),
}
/** A speed stands in the unit that its law is written in, whatever the screen counts in. */
const miles = (r: Requirement) => r.law_unit === 'mph'
const mph = (v: number) => `${Number(inMiles(v).toFixed(2))} mph`
export const limitOf = (r: Requirement) =>
  miles(r) && r.limit !== null
    ? $t(r.strict ? 'under {limit}' : 'up to {limit}', { limit: mph(r.limit) })
    : bounds(r, write)

/** What this vehicle has of it. */
export const valueOf = (r: Requirement) =>
  r.value === null ? '' : miles(r) ? mph(r.value) : write.full(r.value, r.unit)
