<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useExplain } from '@/state/explain'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'
import { figure, term } from '@/lib/words'
import ReadingPanel from '@/parts/ReadingPanel.vue'
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
import { inPair } from '../intake/parts'
import AxleFields from './AxleFields.vue'
import HoldPanel from './HoldPanel.vue'

const route = defineProps<{ drive?: number }>()
const { id, view, evaluation } = useInspection()
/** The hub motors of this vehicle that stand in dropouts; the first where the address names none. */
const hubs = computed(() => {
  const s = view.value?.sheet
  return (s?.drives ?? [])
    .map((x, i) => ({ kind: x.kind, i, stub: inPair(s!, x.kind) && x.axle_held?.value === 'one_end' }))
    .filter((x) => x.kind !== 'mid' && !x.stub)
})
const drive = computed(() => route.drive ?? hubs.value[0]?.i ?? 0)
const d = computed(() =>
  hubs.value.some((h) => h.i === drive.value) ? view.value?.sheet.drives?.[drive.value] : undefined,
)
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
const why = useExplain(
  computed(() => hold.value?.id),
  'axle-hold',
)
/** The right nut as the judgement on the screen has it. */
const rockDeg = computed(() => rock.value?.judged.find((j) => j.output === 'rock_deg')?.value ?? null)
const order = computed(() => stack.value?.judged.filter((j) => j.value === null && j.result === 'fail') ?? [])
const dragCheck = computed(() => of('wheel.drag'))
const keep = computed(() => of('axle.keep'))
/** The driven wheel has a disc on the motor's cover. */
const disced = computed(() => {
  const end = d.value?.kind === 'front_hub' ? 'front' : 'rear'
  return view.value?.sheet[end]?.brake?.value === 'disc'
})
/** The reading that is wanted next, nuts before anything else once all else is there. */
const nuts = computed(() =>
  ['left', 'right'].map((side) => ({
    side,
    path: `${at.value}${side}.nut_nm`,
    title: $t('axle nut torque, {side}', { side: term(side) }),
  })),
)
const wanted = computed(
  () =>
    [...(hold.value?.needs ?? []), ...(stack.value?.needs ?? [])].find((n) => fieldAt(n.path)?.kind === 'figure') ??
    nuts.value[1]!,
)
const chosen = ref<{ path: string; title: string } | null>(null)

function after(r: Schemas['Remedy']): string {
  const j = r.judged?.find((x) => x.output === 'form_ratio')
  const t = r.judged?.find((x) => x.output === 'total_ratio')
  return $t('shape {shape} ×, with friction {total} ×', { shape: figure(j?.value), total: figure(t?.value) })
}
</script>

<template>
  <div v-if="view && d && axle" class="station bench">
    <div class="left">
      <nav v-if="hubs.length > 1" class="hubs" :aria-label="$t('Which motor')">
        <RouterLink
          v-for="h in hubs"
          :key="h.i"
          :to="{ name: 'axle', params: { id, drive: h.i } }"
          :aria-current="h.i === drive ? 'page' : undefined"
          >{{ term(h.kind) }}</RouterLink
        >
      </nav>
      <section class="panel">
        <header>
          <h2>{{ $t('Stack, from behind, to scale') }}</h2>
          <a v-if="stack" href="#" class="small" @click.prevent="working = stack.id">{{ $t('Working') }}</a>
        </header>
        <StackDrawing :axle="axle" :judged="stack?.judged ?? []" />
        <StackParts :axle="axle" :at="at" />
        <p v-for="j in order" :key="j.output" class="stop">{{ $t('Not met: {words}', { words: j.words }) }}</p>
      </section>

      <HoldPanel v-if="hold" :hold="hold" :why="why" :rock="rock" @working="working = hold!.id" />

      <section class="panel">
        <header>
          <h2>{{ $t('Arms and dropouts, from their side') }}</h2>
          <span class="small">{{ $t("to scale, the slot's mouth towards the ground") }}</span>
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

      <AxleFields :axle="axle" :at="at" />
      <KeepSection v-if="keep" :c="keep" />
      <SmallSections v-if="d.kind === 'rear_hub'" which="spacer" />
      <SmallSections v-if="disced" which="rotor" />
    </div>

    <div class="side">
      <ReadingPanel :wanted="wanted" :chosen="chosen" @onward="chosen = null">
        <template #head="{ path }">
          <span class="pick">
            <button v-for="n in nuts" :key="n.path" :aria-pressed="path === n.path" @click="chosen = n">
              {{ term(n.side) }}
            </button>
          </span>
        </template>
        <p class="small">
          {{ $t('Both nuts in turn, a third each time. Paint a line across nut and dropout when it is in.') }}
        </p>
      </ReadingPanel>

      <section v-if="hold && hold.outcome !== 'open' && why?.remedies.length" class="panel" data-test="remedies">
        <h2>{{ $t('What would make it hold') }}</h2>
        <RemedyList :remedies="why.remedies" :after="after" />
        <p class="caution">
          {{ $t('Frames and forks: no filing, welding or heat. A competent frame builder decides.') }}
        </p>
      </section>

      <section v-if="why?.input && hold?.judged.length" class="panel">
        <h2>{{ $t('What if') }}</h2>
        <WhatIf :input="why.input" :u="why?.u ?? {}" :drive="d" />
      </section>

      <SpinTest :drive="d" :index="drive" />

      <section class="panel" data-test="drag">
        <h2>{{ $t('Drag by hand') }}</h2>
        <p class="small">
          {{
            $t(
              'Spin it twice: nuts finger-tight, then torqued. Drag that comes with the torque: something presses on the wrong race.',
            )
          }}
        </p>
        <SheetField :path="`drives.${drive}.drag_finger`" :title="$t('finger-tight')" />
        <SheetField :path="`drives.${drive}.drag_torqued`" :title="$t('torqued')" />
        <ul v-if="dragCheck" class="rows checks">
          <CheckLine :c="dragCheck" :picked="picked === dragCheck.id" @pick="picked = picked ? null : dragCheck.id" />
        </ul>
      </section>

      <section class="panel">
        <h2>{{ $t('Looked at') }}</h2>
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
  <p v-else class="panel">{{ $t('No hub motor stands in dropouts there.') }}</p>
</template>

<style scoped>
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
</style>
