<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { computed } from 'vue'
import ActButton from '@/parts/ActButton.vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { plain } from '@/lib/sheet'
import SheetField from '@/parts/SheetField.vue'
import { fillFromKit } from './kitFill'

/** The measures of the axle and of each side, with its tab washer and torque arm. */
const props = defineProps<{ axle: Schemas['Axle']; at: string }>()
const { id, view, set, settled, locked, say, evaluation } = useInspection()

/** What fails here: a part that is put in or taken out mends it, so it is work and is written down as such. */
const failed = computed(() => {
  const drive = Number(props.at.split('.')[1])
  const mine = (id: string) => /^axle\.(hold|rock|stack|arm_fix)/.test(id)
  return (evaluation.value?.checks ?? []).filter((c) => c.outcome === 'fail' && c.drive === drive && mine(c.id))
})
async function work(side: 'left' | 'right', operation: string, note: string) {
  if (!failed.value.length) return true
  return say('repair', {
    operations: [operation],
    put_right: failed.value.map((c) => c.id),
    at: `${props.at}${side}`,
    note,
  })
}

/** What the kit's sheet says of a part, without what was read or seen on the other one. */
function ofTheKit(part: object): Record<string, unknown> {
  const kept = Object.entries(part).filter(([, x]) => (x as { source?: string } | null)?.source === 'kit_sheet')
  return Object.fromEntries(kept.map(([k, x]) => [k, plain(x)]))
}
/** A second arm of the same kit: on its side, and in the stack before the lock washer or at the end. */
async function fit(side: 'left' | 'right') {
  const other = props.axle[side === 'left' ? 'right' : 'left'].arm
  const arm = { count: 1, ...(other ? ofTheKit(other) : {}) }
  if (!(await work(side, 'arm_changed', $t('Torque arm fitted, {side}', { side: term(side) })))) return
  if (await set(`${props.at}${side}.arm`, arm)) await stackUp(side, 'torque_arm')
}
/** What is described with its side stands in the stack too: before the washers that lock it, else outermost. */
async function stackUp(side: 'left' | 'right', kind: 'torque_arm' | 'tab_washer') {
  if (!(await settled(`${props.at}parts`))) return
  const parts = (props.axle.parts ?? []).map((p) => plain(p) as Record<string, unknown>)
  if (parts.some((p) => p.side === side && p.kind === kind)) return
  const before = parts.findIndex(
    (p) => p.side === side && (p.kind === 'lock_washer' || (kind === 'tab_washer' && p.kind === 'torque_arm')),
  )
  parts.splice(before < 0 ? parts.length : before, 0, { side, place: 'outer', kind, tol_mm: 0.05 })
  await set(`${props.at}parts`, parts)
}
async function unfit(side: 'left' | 'right') {
  if (await work(side, 'arm_changed', $t('Torque arm taken off, {side}', { side: term(side) })))
    await set(`${props.at}${side}.arm`, null)
}
async function washer(side: 'left' | 'right') {
  if (!(await work(side, 'wheel_out', $t('Tab washer fitted, {side}', { side: term(side) })))) return
  if (!(await set(`${props.at}${side}.tab_washer`, {}))) return
  await stackUp(side, 'tab_washer')
  const drive = Number(props.at.split('.')[1])
  if (await settled(`${props.at}parts`)) await fillFromKit(id, drive, view.value?.sheet.drives?.[drive]?.kit)
}
const tab = (side: string): [string, string][] => [
  [`${props.at}${side}.tab_washer.material`, $t('material')],
  [`${props.at}${side}.tab_washer.thickness_mm`, $t('thickness')],
  [`${props.at}${side}.tab_washer.tab_mm`, $t('tab width')],
  [`${props.at}${side}.tab_washer.tab_radius_mm`, $t('axle centre to tab')],
]
const armFields = (side: string): [string, string][] => [
  [`${props.at}${side}.arm.material`, $t('material')],
  [`${props.at}${side}.arm.thickness_mm`, $t('thickness')],
  [`${props.at}${side}.arm.hole_mm`, $t('hole across flats')],
  [`${props.at}${side}.arm.length_mm`, $t('axle centre to anchor')],
  [`${props.at}${side}.arm.anchor`, $t('anchor')],
  [`${props.at}${side}.arm.band_mm`, $t('band width')],
  [`${props.at}${side}.arm.open`, $t('open-ended hole')],
  [`${props.at}${side}.arm.seat`, $t('anchor bolt sits in')],
  [`${props.at}${side}.arm.bolt`, $t('bolt')],
  [`${props.at}${side}.arm.grade`, $t('bolt class')],
]
const sideFields = (side: string): [string, string][] => [
  [`${props.at}${side}.material`, $t('dropout material')],
  [`${props.at}${side}.closed`, $t('closed hole, no slot')],
  [`${props.at}${side}.thickness_mm`, $t('dropout thickness')],
  [`${props.at}${side}.slot_mm`, $t('slot width')],
  [`${props.at}${side}.tine_mm`, $t('narrowest metal beside the slot')],
  [`${props.at}${side}.root_mm`, $t('axle centre to closed end')],
  [`${props.at}${side}.washer_od_mm`, $t('clamping face, outer diameter')],
  [`${props.at}${side}.nut_nm`, $t('axle nut torque')],
]
const axleFields: [string, string?][] = [
  'd_mm',
  'flat_mm',
  'frame_gap_mm',
  'hub_width_mm',
  'axle_left_mm',
  'axle_right_mm',
  'nut_height_mm',
  'pitch_mm',
  'thread_start_left_mm',
  'thread_start_right_mm',
  'flat_end_left_mm',
  'flat_end_right_mm',
  'cable',
].map((k) => [k])
</script>

<template>
  <section class="panel">
    <h2>{{ $t('Axle and dropouts') }}</h2>
    <div class="fields">
      <SheetField v-for="[k, t] in axleFields" :key="k" :path="at + k" :title="t" />
    </div>
    <div v-for="side in ['left', 'right'] as const" :key="side" class="side-block">
      <h3>{{ $t('{side} side', { side: term(side) }) }}</h3>
      <div class="fields">
        <SheetField v-for="[p, t] in sideFields(side)" :key="p" :path="p" :title="t" />
      </div>
      <h4>{{ $t('Tab washer, {side}', { side: term(side) }) }}</h4>
      <div v-if="axle[side].tab_washer" class="fields">
        <SheetField v-for="[p, t] in tab(side)" :key="p" :path="p" :title="t" />
      </div>
      <ActButton v-if="!axle[side].tab_washer" :data-test="`washer-${side}`" :disabled="locked" @click="washer(side)">{{
        $t('Tab washer fitted')
      }}</ActButton>
      <ActButton v-else variant="text" :disabled="locked" @click="set(`${at}${side}.tab_washer`, null)">{{
        $t('No tab washer')
      }}</ActButton>
      <h4>{{ $t('Torque arm, {side}', { side: term(side) }) }}</h4>
      <div v-if="axle[side].arm" class="fields">
        <SheetField v-for="[p, t] in armFields(side)" :key="p" :path="p" :title="t" />
      </div>
      <ActButton v-if="!axle[side].arm" :data-test="`fit-${side}`" :disabled="locked" @click="fit(side)">{{
        $t('Torque arm fitted{axle}', {
          axle: axle[side === 'left' ? 'right' : 'left'].arm ? $t(', like the other') : '',
        })
      }}</ActButton>
      <ActButton v-else variant="text" :disabled="locked" @click="unfit(side)">{{ $t('No torque arm') }}</ActButton>
      <p v-if="failed.length" class="small" data-test="as-work">
        {{ $t('A part that is put in or taken out here is written down as work on what fails, and measured again.') }}
      </p>
    </div>
  </section>
</template>

<style scoped>
.fields {
  margin: 8px 0;
}
.side-block {
  border-top: 1px solid var(--line);
  padding-top: 12px;
  margin-top: 14px;
}
h4 {
  margin: 10px 0 2px;
  font-size: 14px;
}
</style>
