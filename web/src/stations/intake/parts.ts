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

const claims: IntakeField[] = [
  ['claims.power_w'],
  ['claims.top_speed_kmh'],
  ['claims.range_km'],
  ['claims.class'],
  ['use.place', 'where it is ridden'],
  ['use.rider_kg'],
  ['use.load_kg'],
  ['use.total_kg'],
  ['use.allowed_kg'],
  ['use.rented', 'lent out'],
  ['use.rain', 'ridden in rain'],
  ['use.hills', 'ridden in hills'],
  ['use.private_ground', 'on private ground only'],
  ['use.first_use', 'first used electric, by paper'],
]
const vehicle: IntakeField[] = [
  ['name', 'name'],
  ['kind', 'wheels'],
  ['seat', 'seat'],
  ['frame_number'],
  ['colour', 'colour'],
  ['odometer_km'],
  ['sister', 'sister vehicle'],
  ['fork.suspension_cast', 'front dropouts cast into a suspension fork'],
]
const controls = (s: Sheet): IntakeField[] => [
  ['throttle'],
  ['pedal_sensor', 'pedal sensor fitted'],
  ['restricted', 'power or speed limited'],
  ['mixed_plugs', 'plugs of mixed makes'],
  ...(['left', 'right'] as const).flatMap((side): IntakeField[] => [
    [`levers.${side}.fitted`, `${side} lever fitted`],
    [`levers.${side}.switch`, `${side} cutoff switch`, { [`levers.${side}.fitted`]: 'yes' }],
    [`levers.${side}.works`, `${side} works`, { [`levers.${side}.fitted`]: 'yes' }],
  ]),
  ['stem', 'stem'],
  ['cranks.fixing', 'cranks fixed by'],
  ...((s.drives ?? []).some((d) => d.kind === 'mid') ? ([['shift_sensor']] as IntakeField[]) : []),
  ...(s.kind !== 'bicycle' ? ([['parking', 'parking brake']] as IntakeField[]) : []),
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
  (s.kind === 'delta' && w === 'rear') || (s.kind === 'tadpole' && w === 'front')
    ? `Wheels, the ${w} pair`
    : `Wheel, ${w}`
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
  ].map((k) => [`geometry.${k}`, k.replace(/_(mm|deg)$/, '').replaceAll('_', ' ')])
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
export const packFields = (i: number): IntakeField[] => packKeys.map((k) => [`packs.${i}.${k}`])
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
  ].map((k) => [`drives.${i}.${k}`])
}
const cargoKeys = ['end', 'length_mm', 'width_mm', 'height_mm', 'floor_mm']
export const cargoFields = (i: number): IntakeField[] => cargoKeys.map((k) => [`cargo.${i}.${k}`])
export const motorWord: Record<string, string> = { front_hub: 'front hub', rear_hub: 'rear hub', mid: 'mid-drive' }

/** The parts of the intake of this vehicle. Motors, batteries, lists and changes have screens of their own. */
export function partsOf(s: Sheet): Part[] {
  return [
    { id: 'vehicle', name: 'Vehicle', groups: [{ title: 'Vehicle', fields: vehicle }] },
    { id: 'claims', name: 'Claims and use', groups: [{ title: 'Claims and use', fields: claims }] },
    {
      id: 'motors',
      name: 'Motors',
      groups: (s.drives ?? []).map((d, i) => ({ title: `Motor, ${motorWord[d.kind]}`, fields: driveFields(s, i) })),
    },
    {
      id: 'packs',
      name: 'Batteries',
      groups: (s.packs ?? []).map((_, i) => ({ title: `Battery ${i + 1}`, fields: packFields(i) })),
    },
    { id: 'controls', name: 'Brakes and controls', groups: [{ title: 'Brakes and controls', fields: controls(s) }] },
    {
      id: 'wheels',
      name: 'Wheels',
      groups: (['front', 'rear'] as const).map((w) => ({
        title: wheelTitle(s, w),
        fields: wheelKeys.map((k): IntakeField => [`${w}.${k}`]),
      })),
    },
    { id: 'words', name: 'Makeshifts and limits', groups: [] },
    { id: 'changed', name: 'What was changed', groups: [] },
    { id: 'measures', name: 'Measures', groups: [{ title: 'Measures for the drawing', fields: measures(s) }] },
  ]
}
