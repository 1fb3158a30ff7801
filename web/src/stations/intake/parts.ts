import { $t } from '@/lib/say'
import { term } from '@/lib/words'
import type { View } from '@/api/client'

/** A field of the intake: its path, its title if the sheet's own does not do, and what seeing it says beside. */
export type IntakeField = [path: string, title?: string, also?: Record<string, string>]
/** One part of the intake, in the order of the work. */
export interface Part {
  id: string
  name: string
  groups: { title: string; fields: IntakeField[] }[]
}
type Sheet = View['sheet']
/** The end at which a trike has two wheels side by side. */
const pairEnd = (s: Sheet) => ({ delta: 'rear', tadpole: 'front' })[s.kind as string]
/** A hub motor in a wheel of a trike's pair: its axle may be held at one end only. */
export const inPair = (s: Sheet, kind: string) => kind === `${pairEnd(s)}_hub`

const claims: IntakeField[] = [
  ['claims.power_w'],
  ['claims.top_speed_kmh'],
  ['claims.range_km'],
  ['claims.class'],
  ['use.place', $t('where it is ridden')],
  ['use.rider_kg'],
  ['use.load_kg'],
  ['use.total_kg'],
  ['use.allowed_kg'],
  ['use.supplied', $t('built by its rider, lent or sold')],
  ['use.rain', $t('ridden in rain')],
  ['use.hills', $t('ridden in hills')],
  ['use.private_ground', $t('on private ground only')],
]
const vehicle: IntakeField[] = [
  ['name', $t('name')],
  ['kind', $t('wheels')],
  ['seat', $t('seat')],
  ['frame_number'],
  ['colour', $t('colour')],
  ['odometer_km'],
  ['sister', $t('sister vehicle')],
  ['fork.suspension_cast', $t('front dropouts cast into a suspension fork')],
  ['suspended', $t('a suspension travels')],
]
const controls = (s: Sheet): IntakeField[] => [
  ['throttle'],
  ['start_rule'],
  ['pedal_sensor', $t('pedal sensor fitted')],
  ['restricted', $t('power or speed limited')],
  ['mixed_plugs', $t('plugs of mixed makes')],
  ...(['left', 'right'] as const).flatMap((side): IntakeField[] => [
    [`levers.${side}.fitted`, $t('{side} lever fitted', { side: term(side) })],
    [`levers.${side}.switch`, $t('{side} cutoff switch', { side: term(side) }), { [`levers.${side}.fitted`]: 'yes' }],
    [`levers.${side}.works`, $t('{side} works', { side: term(side) }), { [`levers.${side}.fitted`]: 'yes' }],
    ...(s.levers?.[side]?.held_by?.value
      ? ([[`levers.${side}.held_by`, $t('{side} switch held by', { side: term(side) })]] as IntakeField[])
      : []), // asked where it counts, and changed here
  ]),
  ['stem', $t('stem')],
  ['cranks.fixing', $t('cranks fixed by')],
  ...((s.drives ?? []).some((d) => d.kind === 'mid') ? ([['shift_sensor']] as IntakeField[]) : []),
  ...(s.kind !== 'bicycle'
    ? ([['parking', $t('parking brake')], ['pair.driven'], ['pair.braked']] as IntakeField[])
    : []),
]
const wheelKeys = [
  'bsd_mm',
  'rim_inner_mm',
  'tyre_mm',
  'tyre_bsd_mm',
  'pressure_min_bar',
  'pressure_max_bar',
  'pressure_bar',
  'mark_kg',
  'on_it_kg',
  'brake',
  'rotor_mm',
  'rotor_mount',
]
const wheelTitle = (s: Sheet, w: 'front' | 'rear') =>
  pairEnd(s) === w ? $t('Wheels, the {end} pair', { end: term(w) }) : $t('Wheel, {end}', { end: term(w) })
const measures = (s: Sheet): IntakeField[] =>
  [
    'wheelbase_mm',
    ...(s.kind !== 'bicycle' ? ['track_mm'] : []),
    'head_deg',
    'seat_deg',
    'stay_mm',
    'drop_mm',
    'fork_mm',
    'offset_mm',
    'seat_tube_mm',
    'head_tube_mm',
    ...(s.seat === 'recumbent' ? ['seat_mm', 'boom_mm'] : []),
  ].map((k) => [`geometry.${k}`])
const packKeys = [
  'number',
  'place',
  'series',
  'ah',
  'mass_kg',
  'rest_v',
  'ohm',
  'discharge_a',
  'charge_a',
  'certificate',
  'taken_out',
]
/** Packs and motors that may be two systems, which never meet. */
const mayBeTwo = (s: Sheet) => (s.packs ?? []).length > 1 && (s.drives ?? []).length > 1
export const packFields = (s: Sheet, i: number): IntakeField[] =>
  [...packKeys, ...(mayBeTwo(s) ? ['system'] : [])].map((k) => [`packs.${i}.${k}`])
export function driveFields(s: Sheet, i: number): IntakeField[] {
  const d = s.drives![i]!
  return [
    'number',
    'label_w',
    ...(d.kind === 'mid' ? [] : ['declared_peak_nm']),
    'battery_limit_a',
    'phase_limit_a',
    'system_v',
    'limiter_w',
    'regen',
    ...(d.regen?.value === 'yes' ? ['regen_limit_a'] : []),
    'direct',
    ...(d.kind === 'mid' ? [] : ['rotor_mount']),
    ...(inPair(s, d.kind) ? ['axle_held'] : []),
    ...(d.kit ? ['differs'] : []),
    ...(mayBeTwo(s) ? ['system'] : []),
  ].map((k) => [`drives.${i}.${k}`])
}
const cargoKeys = ['end', 'length_mm', 'width_mm', 'height_mm', 'floor_mm']
export const cargoFields = (i: number): IntakeField[] => cargoKeys.map((k) => [`cargo.${i}.${k}`])
export const motorWord: Record<string, string> = {
  front_hub: $t('front hub'),
  rear_hub: $t('rear hub'),
  mid: $t('mid-drive'),
}

/** The parts of the intake of this vehicle. Motors, batteries, lists and changes have screens of their own. */
export function partsOf(s: Sheet): Part[] {
  return [
    { id: 'vehicle', name: $t('Vehicle'), groups: [{ title: $t('Vehicle'), fields: vehicle }] },
    { id: 'claims', name: $t('Claims and use'), groups: [{ title: $t('Claims and use'), fields: claims }] },
    {
      id: 'motors',
      name: $t('Motors'),
      groups: (s.drives ?? []).map((d, i) => ({
        title: $t('Motor, {motorWord}', { motorWord: motorWord[d.kind] }),
        fields: driveFields(s, i),
      })),
    },
    {
      id: 'packs',
      name: $t('Batteries'),
      groups: (s.packs ?? []).map((_, i) => ({ title: $t('Battery {n}', { n: i + 1 }), fields: packFields(s, i) })),
    },
    {
      id: 'controls',
      name: $t('Brakes and controls'),
      groups: [{ title: $t('Brakes and controls'), fields: controls(s) }],
    },
    {
      id: 'wheels',
      name: $t('Wheels'),
      groups: (['front', 'rear'] as const).map((w) => ({
        title: wheelTitle(s, w),
        fields: wheelKeys.map((k): IntakeField => [`${w}.${k}`]),
      })),
    },
    { id: 'words', name: $t('Makeshifts and limits'), groups: [] },
    { id: 'changed', name: $t('What was changed'), groups: [] },
    { id: 'measures', name: $t('Measures'), groups: [{ title: $t('Measures for the drawing'), fields: measures(s) }] },
  ]
}
