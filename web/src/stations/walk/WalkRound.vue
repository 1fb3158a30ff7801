<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { isFigure } from '@/lib/evidence'
import { useInspection } from '@/state/inspection'
import { useSettled } from '@/state/settled'
import { useWorkshop } from '@/state/workshop'
import { checkPlace, nextOpen } from '@/lib/places'
import CheckLine from '@/parts/CheckLine.vue'
import GivenForm from '@/parts/GivenForm.vue'
import HeldBy from '@/parts/HeldBy.vue'
import ReadingPanel from '@/parts/ReadingPanel.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import LeadSums from '@/stations/wiring/LeadSums.vue'
import PackTable from '@/stations/battery/PackTable.vue'
import LawTable from '@/stations/law/LawTable.vue'
import RideRecord from '@/stations/ride/RideRecord.vue'
import StopRecord from '@/stations/ride/StopRecord.vue'
import WalkDrawing from './WalkDrawing.vue'
import TrikePlan from './TrikePlan.vue'
import PinMap from '@/stations/wiring/PinMap.vue'
import SteerSweep from '@/stations/wiring/SteerSweep.vue'
import { passing } from '@/stations/wiring/harness'
import LeadTable from '@/stations/wiring/LeadTable.vue'

const props = defineProps<{ gate: string }>()
const { id, view, evaluation, check } = useInspection()
const route = useRoute()
const router = useRouter()
const gate = computed(() => Number(props.gate))
/** Until what stands above the checks is in they shift: a press would land on another check. */
const settled = useSettled(() => `${id}/${props.gate}`)
const zone = ref<string | null>(null)
const picked = ref<string | null>(null)
const { fieldAt } = useWorkshop()
const working = ref(false)
/** Where the power leads are worked on: which is meant. */
const lead = ref<number | null>(null)
const leadState = computed(() => evaluation.value?.checks.find((c) => c.id === `wire.run.${lead.value ?? 0}`))
/** The readings of the picked check are shown; at first where it is open. */
const given = ref(false)

const shown = computed(() =>
  (evaluation.value?.checks ?? []).filter((c) => c.gate === gate.value && (!zone.value || c.zone === zone.value)),
)
/** The wiring is walked from the axles to the bars; elsewhere the order is the catalogue's. */
const walk: [string, string][] = [
  ['harness', $t('Along the leads')],
  ['frame', $t('Along the frame')],
  ['controller', $t('At the controller')],
  ['battery', $t('At the packs')],
  ['head', $t('Across the steering head')],
  ['bars', $t('At the bars')],
]
const stages = computed(() => {
  const rest = shown.value
  if (!gateState.value?.leads || zone.value) return [{ title: '', checks: rest, leads: [] }]
  const known = walk.map(([z]) => z)
  const by = walk.map(([z, title]) => ({
    title,
    checks: rest.filter((c) => c.zone === z),
    leads: passing(view.value!.sheet, z),
  }))
  return [...by, { title: $t('Elsewhere'), checks: rest.filter((c) => !known.includes(c.zone)), leads: [] }].filter(
    (g) => g.checks.length,
  )
})
const inOrder = computed(() => stages.value.flatMap((g) => g.checks))
const current = computed(() => shown.value.find((c) => c.id === picked.value))
const gateState = computed(() => evaluation.value?.gates[gate.value - 1])
/** The measured input that the picked check wants next. */
const wanted = computed(() => current.value?.needs.find((n) => isFigure(fieldAt(n.path), n.path)))

watch(
  () => route.query.check,
  (c) => {
    if (typeof c === 'string') picked.value = c
  },
  { immediate: true },
)
watch(
  shown,
  (list) => {
    if (!picked.value)
      picked.value = (list.find((c) => c.outcome === 'open' || c.outcome === 'fail') ?? list[0])?.id ?? null
  },
  { immediate: true },
)
watch(
  () => current.value?.id,
  () => (given.value = current.value?.outcome === 'open'),
  { immediate: true },
)
/** What is open stands in the address, so that the way back leads to it. */
function pick(id: string) {
  picked.value = picked.value === id ? null : id
  void router.replace({ query: { ...route.query, check: picked.value ?? undefined } })
}
/** The next that is open, once one was seen and is good. */
function onward(from: string) {
  if (picked.value === from) picked.value = nextOpen(inOrder.value, from)?.id ?? picked.value
}
function pickZone(z: string) {
  zone.value = zone.value === z ? null : z
  picked.value = shown.value.find((c) => c.outcome !== 'pass')?.id ?? shown.value[0]?.id ?? null
}
</script>

<template>
  <div v-if="view" class="station walk">
    <div class="left">
      <section v-if="gateState?.ride" class="panel" data-test="before-ride">
        <header>
          <h2>{{ $t('Before the ride') }}</h2>
        </header>
        <p class="caution">
          {{
            $t(
              'Helmet on, closed ground, walking pace first. Try each brake before any speed. Tests at the limit of what one can do are for trained people.',
            )
          }}
        </p>
        <p class="small">
          {{
            $t(
              'The steps go in their order. Out of range, what you enter waits here and is sent when the server is back.',
            )
          }}
        </p>
      </section>
      <WalkDrawing
        v-else-if="gateState && !gateState.law"
        v-model:lead="lead"
        :gate="gateState"
        :zone="zone"
        @zone="pickZone"
      />
      <LeadTable v-if="gateState?.leads" v-model="lead" />
      <PackTable v-if="gateState?.packs" />
      <LawTable v-if="gateState?.law" />
      <TrikePlan v-if="gate === check('trike.tip')?.gate" />
      <section :class="['panel', { steps: gateState?.ride }]" :inert="!settled">
        <header>
          <h2>{{ gateState?.name }}{{ zone ? `, ${term(zone)}` : '' }}</h2>
          <ActButton v-if="zone" variant="text" @click="zone = null">{{ $t('Whole gate') }}</ActButton>
          <span v-else class="small">{{
            $t('{done} of {total} settled', { done: gateState?.done, total: gateState?.total })
          }}</span>
        </header>
        <p v-if="gateState?.locked" class="caution">
          {{
            $t('Locked until these are settled: {gateState}.', {
              gateState: gateState.why.map((w) => evaluation?.checks.find((c) => c.id === w)?.title ?? w).join(', '),
            })
          }}
        </p>
        <p v-if="!shown.length" class="small">{{ $t('No checks of this gate apply to this vehicle.') }}</p>
        <template v-for="stage in stages" :key="stage.title">
          <h3 v-if="stage.title" class="stage">{{ stage.title }}</h3>
          <p v-if="stage.leads.length" class="small passing">
            {{ $t('Follow here:') }}
            <template v-for="(l, i) in stage.leads" :key="l.title + i"
              ><template v-if="i">, </template
              ><button
                v-if="l.lead !== null"
                type="button"
                class="plain"
                :aria-pressed="lead === l.lead"
                @click="lead = l.lead"
              >
                {{ l.title }}</button
              ><span v-else>{{ l.title }}</span></template
            >.
          </p>
          <ul class="rows checks">
            <CheckLine
              v-for="c in stage.checks"
              :key="c.id"
              :c="c"
              :picked="picked === c.id"
              @pick="pick(c.id)"
              @passed="onward(c.id)"
            >
              <ol v-if="c.felt" class="felt">
                <li v-for="w in c.felt" :key="w">{{ w }}</li>
              </ol>
              <div v-if="c.calc && c.judged.some((x) => x.value !== null)" class="ribbons">
                <MarginRibbon v-for="j in c.judged.filter((x) => x.value !== null)" :key="j.output" :j="j" />
              </div>
              <template v-if="picked === c.id && given">
                <template v-for="(f, i) in c.forms" :key="f">
                  <h3 v-if="c.form_titles[i]">{{ c.form_titles[i] }}</h3>
                  <SteerSweep v-if="f === 'steer_slack'" />
                  <PinMap v-if="f === 'pin_map'" />
                  <RideRecord v-else-if="f === 'road_speed'" :c="c" />
                  <template v-else>
                    <StopRecord v-if="/^stopping(_\d+)?$/.test(f)" :path="`given.${f}`" />
                    <GivenForm :path="`given.${f}`" />
                  </template>
                </template>
              </template>
              <div v-if="c.calc || c.forms.length || c.station" class="links">
                <a
                  v-if="c.forms.length"
                  href="#"
                  :aria-expanded="given"
                  data-readings
                  @click.prevent="given = !given"
                  >{{ given ? $t('Hide readings') : $t('Readings') }}</a
                >
                <RouterLink v-if="c.station === 'axle'" :to="{ name: 'axle', params: { id, drive: c.drive } }">{{
                  $t('Axle bench')
                }}</RouterLink>
                <RouterLink v-if="c.station === 'mid'" :to="{ name: 'mid', params: { id } }">{{
                  $t('Mid-drive bench')
                }}</RouterLink>
                <RouterLink v-if="c.station === 'ledger'" :to="checkPlace(id, c)">{{ $t('Torque ledger') }}</RouterLink>
                <a v-if="c.calc" href="#" @click.prevent="working = true">{{ $t('Working') }}</a>
              </div>
            </CheckLine>
          </ul>
        </template>
      </section>
    </div>
    <div class="side">
      <ReadingPanel :wanted="wanted" :of="picked" />
      <LeadSums v-if="gateState?.leads && leadState" :c="leadState" />
      <HeldBy />
    </div>
    <WorkingSheet v-if="current?.calc" v-model="working" :check="current.id" />
  </div>
</template>

<style scoped>
.stage {
  margin: 16px 0 2px;
}
.links {
  display: flex;
  gap: 18px;
}
.links a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
.felt {
  margin: 0 0 8px;
  padding-left: 22px;
}
.felt li {
  padding: 3px 0;
}
/* Used with one hand beside the vehicle. */
.steps .checks :deep(.answers .v-btn),
.steps .checks :deep(.answers .key) {
  min-height: 56px;
}
.ribbons {
  display: grid;
  gap: 10px;
  background: var(--panel);
  padding: 10px;
}
</style>
