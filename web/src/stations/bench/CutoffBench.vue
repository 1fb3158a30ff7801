<script setup lang="ts">
import TermHint from '@/parts/TermHint.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { withUnit } from '@/state/units'
import { term, figure } from '@/lib/words'
import CheckList from '@/parts/CheckList.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import SheetField from '@/parts/SheetField.vue'
import TakeBack from '@/parts/TakeBack.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'
import BringTrace from './BringTrace.vue'
import LeadStrip from './LeadStrip.vue'
import LeverMatrix from './LeverMatrix.vue'
import LeverTable from './LeverTable.vue'
import LiveBench from './LiveBench.vue'
import OutcomeTable from './OutcomeTable.vue'
import PullTable from './PullTable.vue'
import PullStack from './PullStack.vue'
import RigPanel from './RigPanel.vue'
import StepList from './StepList.vue'
import TraceReplay from './TraceReplay.vue'
import StateNote from '@/parts/StateNote.vue'

const { id, view, evaluation, locked } = useInspection()
const gate = computed(() => evaluation.value?.gates[5])
const checks = computed(() => evaluation.value?.checks.filter((c) => c.gate === 6) ?? [])
const pull = ref<number | null>(null)
const chosen = ref<string | null>(null)
const traces = computed(() => [...(view.value?.traces ?? [])].reverse())
const entry = computed(() => (traces.value.find((t) => t.id === chosen.value) ?? traces.value[0])?.id)
const working = ref(false)

const { data: pulls, error } = useQuery({
  queryKey: computed(() => ['pulls', id, entry.value, view.value?.sheet.levers]),
  queryFn: () =>
    take(api.GET('/api/inspections/{id}/traces/{entry}', { params: { path: { id, entry: entry.value! } } })),
  enabled: computed(() => Boolean(entry.value)),
  placeholderData: (old) => old,
})
/** Laid over one another are pulls under drive; a test with steps shows those. */
const byPulls = computed(() => !pulls.value?.outcome)
const levers = computed(() => (byPulls.value ? Object.entries(pulls.value?.analysis.levers ?? {}) : []))

const over = ref(false)
const bring = useTemplateRef('bring')
</script>

<template>
  <div v-if="view" class="station bench">
    <div class="left">
      <section v-if="gate?.locked" class="halt" data-test="bench-locked">
        <b>{{ $t('The bench is locked.') }}</b>
        {{ $t('Powering this vehicle would be unsafe until these are settled:') }}
        <RouterLink
          v-for="w in gate.why"
          :key="w"
          :to="{
            name: 'walk',
            params: { id, gate: String(evaluation?.checks.find((c) => c.id === w)?.gate ?? 2) },
            query: { check: w },
          }"
        >
          {{ evaluation?.checks.find((c) => c.id === w)?.title ?? w }}
        </RouterLink>
      </section>
      <LiveBench :barred="Boolean(gate?.locked)" />
      <section
        :class="['panel', { over }]"
        data-test="drop"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="((over = false), bring?.take($event.dataTransfer?.files))"
      >
        <header>
          <h2>{{ byPulls ? $t("Pulls laid over one another, from the lever's edge") : pulls?.name }}</h2>
          <select v-if="traces.length > 1" v-model="chosen" class="which" :aria-label="$t('Which trace')">
            <option :value="null">{{ $t('latest') }}</option>
            <option v-for="t in traces" :key="t.id" :value="t.id">{{ t.what.name }}</option>
          </select>
        </header>
        <template v-if="pulls?.outcome">
          <StepList :steps="pulls.outcome.steps ?? []" :running="false" />
          <p v-for="n in pulls.outcome.notes" :key="n" class="caution">{{ n }}</p>
          <OutcomeTable :outcome="pulls.outcome" />
        </template>
        <PullStack v-else-if="pulls?.curves?.length" :pulls="pulls" :picked="pull" @pick="pull = $event" />
        <p v-else class="empty">
          {{
            $t(
              'No trace yet. Drop a recorded brake test here: a CSV with t_s, current_a and the levers, 200 readings a second or more.',
            )
          }}
        </p>
        <StateNote :error="error" />
      </section>

      <section v-if="pulls" class="panel">
        <header>
          <h2>{{ byPulls ? $t('Every pull') : $t('The recording') }}</h2>
          <span class="small"
            >{{ pulls.name }}, <span class="num">{{ Math.round(pulls.analysis.rate_hz) }}</span>
            {{ $t('readings a second,') }} <span class="num">{{ pulls.analysis.samples }}</span> {{ $t('in all ·') }}
            <a :href="`/api/traces/${pulls.sha256}.csv`">{{ $t('file') }}</a>
            <template v-if="!locked && entry">
              · <TakeBack :key="entry" :entry="entry" :what="$t('this recording')" /></template
          ></span>
        </header>
        <p v-for="w in pulls.analysis.warnings" :key="w.what + w.t_s" class="caution">
          {{ w.what }}{{ w.t_s ? $t(', at {t_s} s', { t_s: figure(w.t_s) }) : '' }}
        </p>
        <TraceReplay :key="pulls.sha256" :pulls="pulls" />
        <PullTable v-if="byPulls" v-model="pull" :events="pulls.analysis.events ?? []" />
      </section>
    </div>

    <div class="side">
      <RigPanel />
      <BringTrace ref="bring" @brought="chosen = null" />

      <section v-if="levers.length" class="panel">
        <header>
          <h2>{{ $t('Per lever, milliseconds') }}</h2>
          <span class="small">{{ pulls?.name }}</span>
          <a href="#" class="small" @click.prevent="working = true">{{ $t('Working') }}</a>
        </header>
        <LeverTable :levers="pulls?.analysis.levers ?? {}" data-test="levers" />
        <LeadStrip v-if="pulls" :analysis="pulls.analysis" :asked="pulls.lead_mm" />
        <div
          v-for="c in checks.filter((x) => x.calc === 'cutoff-trace' && x.judged.length)"
          :key="c.id"
          class="ribbons"
        >
          <MarginRibbon
            v-for="j in c.judged.filter((x) => /worst_ms|bound_ms/.test(x.output))"
            :key="j.output"
            :j="{ ...j, words: `${j.words}, ${term(c.id.split('.')[1]!)}` }"
          />
        </div>
      </section>

      <LeverMatrix />

      <section class="panel">
        <h2>{{ $t('Checks of the bench') }}</h2>
        <CheckList :checks="checks" />
      </section>
      <section class="panel">
        <h2>{{ $t('Where the pads bite') }}</h2>
        <p class="small">
          {{ $t('Feel for the') }} <TermHint term="bite" />
          {{
            $t('with the wheel still; the switch must close at least {withUnit} of travel before.', {
              withUnit: withUnit(1, 'mm', 1),
            })
          }}
        </p>
        <SheetField path="levers.left.bite_mm" :title="$t('left lever')" />
        <SheetField path="levers.right.bite_mm" :title="$t('right lever')" />
      </section>
    </div>
    <WorkingSheet v-model="working" check="cutoff.left" />
  </div>
</template>

<style scoped>
.bench {
  --side: 380px;
}
.halt a {
  margin-left: 10px;
}
.over {
  outline: 3px dashed var(--jade);
}
.empty {
  min-height: 240px;
  display: grid;
  place-content: center;
  text-align: center;
  color: var(--soft);
  max-width: 46ch;
  margin: 0 auto;
}
.which {
  width: auto;
}
.ribbons {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
</style>
