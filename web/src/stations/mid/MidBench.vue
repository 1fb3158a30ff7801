<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import type { CheckState, Schemas } from '@/api/client'
import { useExplain } from '@/state/explain'
import { useInspection } from '@/state/inspection'
import { isFigure } from '@/lib/evidence'
import { at } from '@/lib/sheet'
import { useWorkshop } from '@/state/workshop'
import { figure } from '@/lib/words'
import CheckList from '@/parts/CheckList.vue'
import GivenForm from '@/parts/GivenForm.vue'
import HeldBy from '@/parts/HeldBy.vue'
import HoldStrip, { type Strip } from '@/parts/HoldStrip.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import ReadingPanel from '@/parts/ReadingPanel.vue'
import RemedyList from '@/parts/RemedyList.vue'
import SheetField from '@/parts/SheetField.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'
import { withUnit } from '@/state/units'
import ChainFromAbove from './ChainFromAbove.vue'
import ShellSection, { type Mount } from './ShellSection.vue'

const { view, evaluation, check } = useInspection()
const fitted = computed(() => view.value?.sheet.drives?.some((d) => d.kind === 'mid'))
const hold = computed(() => check('mid.hold'))
const seat = computed(() => check('mid.seat'))
const line = computed(() => check('mid.chain_line'))
const length = computed(() => check('mid.chain_length'))
const crank = computed(() => check('mid.crank'))
const why = useExplain(
  computed(() => hold.value?.id),
  'mid-mount',
)
const whyLine = useExplain(
  computed(() => line.value?.id),
  'chain-line',
)

/** What is known of the mount so far, whole or not. */
const mount = computed<Mount>(() => {
  const g = at(view.value?.sheet, 'given.mid_mount') as Record<string, unknown> | undefined
  const num = (v: unknown) => (v as { value?: number } | undefined)?.value ?? null
  const stop = g?.stop as Record<string, unknown> | undefined
  const ring = hold.value?.sources.find((s) => s.input === 'ring_nm')?.value
  return {
    shell_mm: num(g?.shell_mm),
    kit_min_mm: num(g?.kit_min_mm),
    kit_max_mm: num(g?.kit_max_mm),
    shell_id_mm: num(g?.shell_id_mm),
    spindle_mm: num(g?.spindle_mm),
    spacer_mm: num(g?.spacer_mm),
    plate_gap_mm: num(g?.plate_gap_mm),
    ring_nm: ring ?? null,
    stop: stop
      ? {
          kind: (stop.kind as { value?: string } | undefined)?.value,
          radius_mm: num(stop.radius_mm),
          gap_mm: num(stop.gap_mm),
          wrong_side: stop.wrong_side === true,
        }
      : null,
  }
})
const out = computed(() => (hold.value?.judged.length ? why.value?.result : undefined))
const motor = computed(() => why.value?.input?.motor_nm ?? 0)
const strips = computed<Strip[]>(() =>
  out.value
    ? [
        { name: $t('stop'), v: out.value.stop_nm, fill: 'var(--jade)' },
        { name: $t('friction of the clamped faces'), v: out.value.slip_nm, fill: 'none', lent: true },
      ]
    : [],
)
const asked = computed(() => hold.value?.judged.find((j) => j.output === 'hold_ratio')?.lower ?? 0)
const bad = computed(() =>
  [...(hold.value?.judged ?? []), ...(seat.value?.judged ?? [])]
    .filter((j) => j.result === 'fail')
    .map((j) => j.output),
)
const chain = computed(() => {
  const i = whyLine.value?.input
  const o = whyLine.value?.result
  return i && o ? { i, o } : null
})
const slant = computed(() => line.value?.judged.find((j) => j.output === 'worst_deg')?.upper ?? 0)
const ribbons = (c?: CheckState) => c?.judged.filter((j) => j.value !== null) ?? []

const checks = computed(() => evaluation.value?.checks.filter((c) => c.station === 'mid') ?? [])
const { fieldAt } = useWorkshop()
const working = ref<string | null>(null)
const showing = computed({ get: () => working.value !== null, set: (v) => (working.value = v ? working.value : null) })
/** The measure that is wanted next, in the order of the checks. */
const wanted = computed(() => checks.value.flatMap((c) => c.needs).find((n) => isFigure(fieldAt(n.path), n.path)))
const after = (r: Schemas['Remedy']) =>
  $t('holds {hold_ratio} × the motor', { hold_ratio: figure(r.judged?.find((j) => j.output === 'hold_ratio')?.value) })
</script>

<template>
  <div v-if="view && fitted" class="station">
    <div class="left">
      <section class="panel">
        <header>
          <h2>{{ $t('Shell, ring, plate and stop, cut along the tube') }}</h2>
          <a v-if="hold" href="#" class="small" @click.prevent="working = hold.id">{{ $t('Working') }}</a>
        </header>
        <ShellSection :m="mount" :play="seat?.judged.find((j) => j.output === 'play_mm')?.value ?? null" :bad="bad" />
        <template v-if="out">
          <h3>{{ $t('What holds {motor} at the crank', { motor: withUnit(motor, 'N·m') }) }}</h3>
          <HoldStrip :strips="strips" :peak="motor" :asked="asked" :asked-words="$t('asked for')" />
          <div class="ribbons">
            <MarginRibbon v-for="j in [...ribbons(hold), ...ribbons(seat)]" :key="j.output" :j="j" />
          </div>
        </template>
        <p v-else class="small">
          {{
            $t('Readings missing: {readings}.', {
              readings: [...new Set((hold?.needs ?? []).map((n) => n.title))].join(', '),
            })
          }}
        </p>
      </section>
      <section class="panel">
        <header>
          <h2>{{ $t('Chain line, from above') }}</h2>
          <a v-if="line" href="#" class="small" @click.prevent="working = line.id">{{ $t('Working') }}</a>
        </header>
        <ChainFromAbove
          v-if="chain"
          :ring="chain.i.ring_line_mm"
          :cassette="chain.i.cassette_line_mm"
          :cogs="chain.i.cogs"
          :half="chain.o.half_mm"
          :stay="chain.i.stay_mm"
          :big="chain.o.angle_big_deg"
          :small="chain.o.angle_small_deg"
          :limit="slant"
        />
        <div class="ribbons"><MarginRibbon v-for="j in ribbons(line)" :key="j.output" :j="j" /></div>
        <div class="fields">
          <SheetField path="given.chain_line.ring_line_mm" />
          <SheetField path="given.chain_line.cassette_line_mm" />
          <SheetField path="given.chain_line.cogs" :title="$t('cogs')" />
          <SheetField path="given.chain_line.stay_mm" />
          <SheetField path="cranks.ring_stay_mm" />
        </div>
      </section>
      <section class="panel">
        <header>
          <h2>{{ $t('Chain length and cranks') }}</h2>
          <a v-if="length" href="#" class="small" @click.prevent="working = length.id">{{ $t('Working') }}</a>
        </header>
        <div class="ribbons">
          <MarginRibbon v-for="j in [...ribbons(length), ...ribbons(crank)]" :key="j.output" :j="j" />
        </div>
        <div class="fields">
          <SheetField path="given.chain_length.stay_mm" :title="$t('chainstay, at its longest')" />
          <SheetField path="given.chain_length.ring_teeth" :title="$t('ring, teeth')" />
          <SheetField path="given.chain_length.cog_teeth" :title="$t('biggest cog, teeth')" />
          <SheetField path="given.chain_length.small_cog" :title="$t('smallest cog, teeth')" />
          <SheetField path="given.chain_length.cage_teeth" :title="$t('derailleur takes up, teeth')" />
          <SheetField path="given.chain_length.fitted_links" :title="$t('links fitted, half-links as counted')" />
          <SheetField path="cranks.clear_left_mm" />
          <SheetField path="cranks.clear_right_mm" />
          <SheetField v-if="check('crank.sensor')" path="cranks.cup_thread_mm" />
        </div>
      </section>
      <section class="panel">
        <h2>{{ $t('Measures of the mount') }}</h2>
        <GivenForm path="given.mid_mount" />
      </section>
    </div>
    <div class="side">
      <ReadingPanel :wanted="wanted" />
      <section v-if="hold && hold.outcome !== 'open' && why?.remedies.length" class="panel">
        <h2>{{ $t('What would make it hold') }}</h2>
        <RemedyList :remedies="why.remedies" :after="after" />
        <p v-if="!at(view?.sheet, 'given.mid_mount.swing')" class="small" data-test="swing-first">
          {{
            $t(
              'For bands or a bracket, say first which way the motor swings under drive: a band that it slackens holds nothing.',
            )
          }}
        </p>
        <p class="caution">{{ $t('A shell is not cut, ground or welded here. A competent frame builder decides.') }}</p>
      </section>
      <section class="panel">
        <h2>{{ $t('Mid-drive checks') }}</h2>
        <CheckList :checks="checks" />
      </section>
      <HeldBy />
    </div>
    <WorkingSheet v-if="working" v-model="showing" :check="working" />
  </div>
  <p v-else class="panel">{{ $t('This vehicle has no mid-drive.') }}</p>
</template>

<style scoped>
.ribbons {
  display: grid;
  gap: 12px;
}
h3 {
  margin: 10px 0 4px;
}
.fields {
  margin: 8px 0;
}
</style>
