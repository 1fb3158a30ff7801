<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useExplain } from '@/app/explain'
import { useInspection } from '@/app/inspection'
import { plain } from '@/app/sheet'
import { useWorkshop } from '@/app/workshop'
import { figure, withUnit } from '@/app/words'
import GateMark from '@/parts/GateMark.vue'
import HoldStrip, { type Strip } from '@/parts/HoldStrip.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import ReadingField from '@/parts/ReadingField.vue'
import RemedyList from '@/parts/RemedyList.vue'
import SheetField from '@/parts/SheetField.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'
import CheckLine from '@/parts/CheckLine.vue'
import KeepSection from './KeepSection.vue'
import ArmView from './ArmView.vue'
import SmallSections from './SmallSections.vue'
import SpinTest from './SpinTest.vue'
import StackDrawing from './StackDrawing.vue'
import StackParts from './StackParts.vue'
import WhatIf from './WhatIf.vue'

const route = defineProps<{ drive?: number }>()
const { id, view, evaluation, set, locked } = useInspection()
/** The hub motors of this vehicle; the first where the address names none. */
const hubs = computed(() =>
  (view.value?.sheet.drives ?? []).map((x, i) => ({ kind: x.kind, i })).filter((x) => x.kind !== 'mid'),
)
const drive = computed(() => route.drive ?? hubs.value[0]?.i ?? 0)
const d = computed(() => view.value?.sheet.drives?.[drive.value])
const axle = computed(() => d.value?.axle)
const at = computed(() => `drives.${drive.value}.axle.`)
const of = (kind: string) => evaluation.value?.checks.find((c) => c.drive === drive.value && c.id.startsWith(kind))
const hold = computed(() => of('axle.hold'))
const rock = computed(() => of('axle.rock'))
const stack = computed(() => of('axle.stack'))
const looks = computed(
  () => evaluation.value?.checks.filter((c) => c.drive === drive.value && (c.kind === 'look' || c.looked)) ?? [],
)
const picked = ref<string | null>(null)
const working = ref<string | null>(null)
const showing = computed({ get: () => working.value !== null, set: (v) => (working.value = v ? working.value : null) })

const { fieldAt } = useWorkshop()
const why = useExplain(computed(() => hold.value?.id))
type HoldOut = { sides: { dropout_nm: number; washer_nm: number; arm_nm: number; slip_nm: number }[]; form_nm: number }
const out = computed(() =>
  hold.value?.judged.length ? (why.value?.result as unknown as HoldOut | undefined) : undefined,
)
type HoldIn = { peak_nm: number; sides: { friction: number; nut_factor: number }[] } & Record<string, unknown>
const input = computed(() => why.value?.input as HoldIn | undefined)
const strips = computed<Strip[]>(() => {
  const sides = out.value?.sides ?? []
  const sum = (f: (s: HoldOut['sides'][number]) => number) => sides.reduce((a, x) => a + f(x), 0)
  return [
    { name: 'dropouts', v: sum((x) => x.dropout_nm), fill: 'var(--steel)' },
    { name: 'tab washers', v: sum((x) => x.washer_nm), fill: 'var(--steel-pale)' },
    { name: 'arm, left', v: sides[0]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: 'arm, right', v: sides[1]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: 'friction of the nuts', v: sum((x) => x.slip_nm), fill: 'none', lent: true },
  ]
})
/** The right nut as the judgement on the screen has it. */
const rockDeg = computed(() => rock.value?.judged.find((j) => j.output === 'rock_deg')?.value ?? null)
const asked = computed(() => hold.value?.judged.find((j) => j.output === 'form_ratio')?.lower ?? 0)
const ribbons = computed(() =>
  [...(hold.value?.judged ?? []), ...(rock.value?.judged ?? [])].filter((j) => j.value !== null),
)
const order = computed(() => stack.value?.judged.filter((j) => j.value === null && j.result === 'fail') ?? [])
const dragCheck = computed(() => of('wheel.drag'))
const keep = computed(() => of('axle.keep'))
/** The driven wheel has a disc on the motor's cover. */
const disced = computed(() => {
  const end = d.value?.kind === 'front_hub' ? 'front' : 'rear'
  return view.value?.sheet[end]?.brake?.value === 'disc'
})
const broken = computed(() => (hold.value?.judged ?? []).filter((j) => j.value === null && j.result === 'fail'))

/** The reading that is wanted next, nuts before anything else once all else is there. */
const wanted = computed(() =>
  [...(hold.value?.needs ?? []), ...(stack.value?.needs ?? [])].find((n) => fieldAt(n.path)?.kind === 'figure'),
)
const nutPaths = computed(() => [`${at.value}left.nut_nm`, `${at.value}right.nut_nm`])
const reading = ref<string | null>(null)
const readingPath = computed(() => reading.value ?? wanted.value?.path ?? nutPaths.value[1]!)
const readingTitle = computed(() =>
  wanted.value?.path === readingPath.value
    ? wanted.value.title
    : `axle nut torque, ${readingPath.value.includes('.left.') ? 'left' : 'right'}`,
)

function after(r: Schemas['Remedy']): string {
  const j = r.judged?.find((x) => x.output === 'form_ratio')
  const t = r.judged?.find((x) => x.output === 'total_ratio')
  return `shape ${figure(j?.value)} ×, with friction ${figure(t?.value)} ×`
}
/** What the kit's sheet says of a part, without what was read or seen on the other one. */
function ofTheKit(part: object): Record<string, unknown> {
  const kept = Object.entries(part).filter(([, x]) => (x as { source?: string } | null)?.source === 'kit_sheet')
  return Object.fromEntries(kept.map(([k, x]) => [k, plain(x)]))
}
/** A second arm of the same kit: on its side, and in the stack before the lock washer or at the end. */
async function fit(side: 'left' | 'right') {
  const other = axle.value?.[side === 'left' ? 'right' : 'left'].arm
  const arm = { count: 1, ...(other ? ofTheKit(other) : {}) }
  if (await set(`${at.value}${side}.arm`, arm)) await stackUp(side, 'torque_arm')
}
/** What is described with its side stands in the stack too: before the washers that lock it, else outermost. */
async function stackUp(side: 'left' | 'right', kind: 'torque_arm' | 'tab_washer') {
  const parts = (axle.value?.parts ?? []).map((p) => plain(p) as Record<string, unknown>)
  if (parts.some((p) => p.side === side && p.kind === kind)) return
  const before = parts.findIndex(
    (p) => p.side === side && (p.kind === 'lock_washer' || (kind === 'tab_washer' && p.kind === 'torque_arm')),
  )
  parts.splice(before < 0 ? parts.length : before, 0, { side, place: 'outer', kind, tol_mm: 0.05 })
  await set(`${at.value}parts`, parts)
}
async function washer(side: 'left' | 'right') {
  if (await set(`${at.value}${side}.tab_washer`, {})) await stackUp(side, 'tab_washer')
}
const tab = (side: string): [string, string][] => [
  [`${at.value}${side}.tab_washer.material`, 'material'],
  [`${at.value}${side}.tab_washer.thickness_mm`, 'thickness'],
  [`${at.value}${side}.tab_washer.tab_mm`, 'tab width'],
  [`${at.value}${side}.tab_washer.tab_radius_mm`, 'axle centre to tab'],
]
const armFields = (side: string): [string, string][] => [
  [`${at.value}${side}.arm.material`, 'material'],
  [`${at.value}${side}.arm.thickness_mm`, 'thickness'],
  [`${at.value}${side}.arm.hole_mm`, 'hole across flats'],
  [`${at.value}${side}.arm.length_mm`, 'axle centre to anchor'],
  [`${at.value}${side}.arm.anchor`, 'anchor'],
  [`${at.value}${side}.arm.band_mm`, 'band width'],
  [`${at.value}${side}.arm.open`, 'its hole is an open slot'],
  [`${at.value}${side}.arm.seat`, 'anchor bolt sits in'],
  [`${at.value}${side}.arm.bolt`, 'bolt'],
  [`${at.value}${side}.arm.grade`, 'bolt class'],
]
const sideFields = (side: string): [string, string][] => [
  [`${at.value}${side}.material`, 'dropout material'],
  [`${at.value}${side}.closed`, 'closed hole, no slot'],
  [`${at.value}${side}.thickness_mm`, 'dropout thickness'],
  [`${at.value}${side}.slot_mm`, 'slot width'],
  [`${at.value}${side}.tine_mm`, 'least metal beside the slot'],
  [`${at.value}${side}.root_mm`, 'axle centre to closed end'],
  [`${at.value}${side}.washer_od_mm`, 'clamping face, outer diameter'],
  [`${at.value}${side}.nut_nm`, 'axle nut torque'],
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
  <div v-if="view && d && axle" class="station bench">
    <div class="left">
      <nav v-if="hubs.length > 1" class="hubs" aria-label="Which motor">
        <RouterLink
          v-for="h in hubs"
          :key="h.i"
          :to="{ name: 'axle', params: { id, drive: h.i } }"
          :aria-current="h.i === drive ? 'page' : undefined"
          >{{ h.kind.replace('_', ' ') }}</RouterLink
        >
      </nav>
      <section class="panel">
        <header>
          <h2>Stack, from behind, to scale</h2>
          <a v-if="stack" href="#" class="small" @click.prevent="working = stack.id">Working</a>
        </header>
        <StackDrawing :axle="axle" :judged="stack?.judged ?? []" />
        <StackParts :axle="axle" :at="at" />
        <p v-for="j in order" :key="j.output" class="stop">{{ j.words }}: not so</p>
      </section>

      <section class="panel" data-test="hold" :data-seq="view?.seq">
        <header>
          <h2>What holds {{ input ? figure(input.peak_nm) : '–' }} N·m of motor</h2>
          <a v-if="hold" href="#" class="small" data-test="working" @click.prevent="working = hold.id"
            >Working, {{ (why?.result?.working as unknown[] | undefined)?.length ?? 0 }} steps</a
          >
        </header>
        <template v-if="out && input">
          <HoldStrip :strips="strips" :peak="input.peak_nm" :asked="asked" asked-words="shape asked for" />
          <p v-if="why?.peak" class="small" data-test="peak-basis">
            The motor's peak: <b class="num">{{ withUnit(why.peak.nm, 'N·m') }}</b>, {{ why.peak.words }}. Friction
            <b class="num">{{ figure(input.sides[0]!.friction) }}</b> and nut factor
            <b class="num">{{ figure(input.sides[0]!.nut_factor) }}</b> are the house's.
          </p>
          <p v-if="why?.scatter" class="small" data-test="scatter">
            With what nobody measured (yields, friction, nut factor, bands and seats{{
              why.peak?.by_ratio ? ', the phase current' : ''
            }}): shape <b class="num">{{ figure(why.scatter.form.p05) }} to {{ figure(why.scatter.form.p95) }} ×</b>,
            with friction
            <b class="num">{{ figure(why.scatter.total.p05) }} to {{ figure(why.scatter.total.p95) }} ×</b>
            in nine cases of ten; it holds the peak in
            <b class="num">{{ Math.round(why.scatter.holds * why.scatter.draws) }} of {{ why.scatter.draws }} draws</b>.
            The limits judge the value; this is what their margin is for.
          </p>
          <div class="two">
            <div class="ribbons">
              <MarginRibbon v-for="j in ribbons" :key="j.output" :j="j" />
              <p v-for="j in broken" :key="j.output" class="stop">
                <b>{{ j.words }}</b>: not so
              </p>
            </div>
            <div>
              <h3>As others would judge</h3>
              <ul class="rows schools" data-test="schools">
                <li v-for="s in hold?.schools" :key="s.id">
                  <span>{{ s.title }}<small v-if="s.chosen"> · the house's</small></span>
                  <GateMark
                    :state="s.pass ? 'open' : 'held'"
                    :size="28"
                    :label="s.pass ? 'would hold' : 'would not do'"
                  />
                </li>
              </ul>
            </div>
          </div>
        </template>
        <ul v-else class="rows" data-test="hold-needs">
          <li v-for="n in hold?.needs" :key="n.path">
            {{ n.title }}: <span class="attend">{{ n.why === 'missing' ? 'to be given' : n.why }}</span>
          </li>
        </ul>
      </section>

      <section class="panel">
        <header>
          <h2>Arms and dropouts, from their side</h2>
          <span class="small">to scale, the slot's mouth towards the ground</span>
        </header>
        <div class="arms">
          <ArmView
            v-for="side in ['left', 'right'] as const"
            :key="side"
            :axle="axle"
            :side="side"
            :rock-deg="rockDeg"
          />
        </div>
      </section>

      <section class="panel">
        <h2>Axle and dropouts</h2>
        <div class="fields">
          <SheetField v-for="[k, t] in axleFields" :key="k" :path="at + k" :title="t" />
        </div>
        <div v-for="side in ['left', 'right'] as const" :key="side" class="side-block">
          <h3>{{ side }} side</h3>
          <div class="fields">
            <SheetField v-for="[p, t] in sideFields(side)" :key="p" :path="p" :title="t" />
          </div>
          <h4>Tab washer, {{ side }}</h4>
          <div v-if="axle[side].tab_washer" class="fields">
            <SheetField v-for="[p, t] in tab(side)" :key="p" :path="p" :title="t" />
          </div>
          <VBtn v-if="!axle[side].tab_washer" :data-test="`washer-${side}`" :disabled="locked" @click="washer(side)"
            >There is a tab washer</VBtn
          >
          <VBtn v-else variant="text" :disabled="locked" @click="set(`${at}${side}.tab_washer`, null)"
            >No tab washer there</VBtn
          >
          <h4>Torque arm, {{ side }}</h4>
          <div v-if="axle[side].arm" class="fields">
            <SheetField v-for="[p, t] in armFields(side)" :key="p" :path="p" :title="t" />
          </div>
          <VBtn v-if="!axle[side].arm" :data-test="`fit-${side}`" :disabled="locked" @click="fit(side)"
            >An arm is fitted{{ axle[side === 'left' ? 'right' : 'left'].arm ? ', like the other' : '' }}</VBtn
          >
          <VBtn v-else variant="text" :disabled="locked" @click="set(`${at}${side}.arm`, null)">No arm there</VBtn>
        </div>
      </section>
      <KeepSection v-if="keep" :c="keep" />
      <SmallSections v-if="d.kind === 'rear_hub'" which="spacer" />
      <SmallSections v-if="disced" which="rotor" />
    </div>

    <div class="side">
      <section class="panel">
        <header>
          <h2>{{ readingTitle }}</h2>
          <span class="pick">
            <button v-for="(p, i) in nutPaths" :key="p" :aria-pressed="readingPath === p" @click="reading = p">
              {{ i ? 'right' : 'left' }}
            </button>
          </span>
        </header>
        <ReadingField :path="readingPath" :title="readingTitle" @saved="reading = null" />
        <p class="small">Both nuts in turn, a third each time. Paint a line across nut and dropout when it is in.</p>
      </section>

      <section v-if="hold && hold.outcome !== 'open' && why?.remedies.length" class="panel" data-test="remedies">
        <h2>What would make it hold</h2>
        <RemedyList :remedies="why.remedies" :after="after" />
        <p class="caution">Frames and forks: no filing, welding or heat. A competent frame builder decides.</p>
      </section>

      <section v-if="input && hold?.judged.length" class="panel">
        <h2>What if</h2>
        <WhatIf :input="input" :u="(why?.u as Record<string, number>) ?? {}" :drive="d" />
      </section>

      <SpinTest :drive="d" :index="drive" />

      <section class="panel" data-test="drag">
        <h2>Drag by hand</h2>
        <p class="small">
          Spin it twice: nuts finger-tight, then torqued. What comes with the torque is on the wrong race.
        </p>
        <SheetField :path="`drives.${drive}.drag_finger`" title="finger-tight" />
        <SheetField :path="`drives.${drive}.drag_torqued`" title="torqued" />
        <ul v-if="dragCheck" class="rows checks">
          <CheckLine :c="dragCheck" :picked="picked === dragCheck.id" @pick="picked = picked ? null : dragCheck.id" />
        </ul>
      </section>

      <section class="panel">
        <h2>Looked at</h2>
        <ul class="rows checks">
          <CheckLine
            v-for="c in looks"
            :key="c.id"
            :c="c"
            :picked="picked === c.id"
            @pick="picked = picked === c.id ? null : c.id"
          />
        </ul>
      </section>
    </div>
    <WorkingSheet v-if="working" v-model="showing" :check="working" />
  </div>
  <p v-else class="panel">This vehicle has no hub motor there.</p>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px;
  gap: 24px;
  margin-top: 6px;
}
.ribbons {
  display: grid;
  gap: 12px;
}
.schools li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
}
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
.hubs {
  display: flex;
  gap: 18px;
}
.hubs a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
.hubs [aria-current] {
  font-weight: 700;
}
.arms {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(280px, 100%), 1fr));
  gap: 12px;
}
.pick button {
  min-height: 44px;
  min-width: 52px;
  border: 0;
  background: transparent;
  color: var(--soft);
  font: inherit;
  cursor: pointer;
}
.pick button[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: underline;
  text-underline-offset: 5px;
}
a.small {
  min-height: 30px;
}
@media (max-width: 980px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
