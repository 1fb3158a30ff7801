<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from '@/app/inspection'
import { useWorkshop } from '@/app/workshop'
import { figure } from '@/app/words'
import CheckList from '@/parts/CheckList.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import SheetField from '@/parts/SheetField.vue'
import TakeBack from '@/parts/TakeBack.vue'
import WorkingSheet from '@/parts/WorkingSheet.vue'
import { importTrace } from './importTrace'
import LeadStrip from './LeadStrip.vue'
import LeverMatrix from './LeverMatrix.vue'
import LeverTable from './LeverTable.vue'
import LiveBench from './LiveBench.vue'
import OutcomeTable from './OutcomeTable.vue'
import PullStack from './PullStack.vue'
import RigPanel from './RigPanel.vue'
import StepList from './StepList.vue'
import TraceReplay from './TraceReplay.vue'
import { advice } from './words'

const { id, view, evaluation, say, locked } = useInspection()
const { tools } = useWorkshop()
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

/** A recording counts with the logger that made it, the motor it listened to and its time. */
const loggers = computed(() => tools.value.filter((t) => t.kind === 'logger'))
const logger = ref('')
const motors = computed(() => [...new Set((view.value?.sheet.drives ?? []).map((d) => d.kind))])
const motor = ref('')
const made = ref('')
const told = computed(() => logger.value !== '' && (motors.value.length < 2 || motor.value !== ''))

const progress = ref<{ share: number; what: string } | null>(null)
const problem = ref('')
const over = ref(false)
let cancel = () => {}

async function take1(files: FileList | null | undefined) {
  const file = files?.[0]
  if (!file || locked.value) return
  if (gate.value?.locked) {
    problem.value = 'The bench is locked: settle what stands before it first.'
    return
  }
  if (!told.value) {
    problem.value = 'Say first which logger made it, and on which motor.'
    return
  }
  problem.value = ''
  progress.value = { share: 0, what: 'sending' }
  const run = importTrace(file, (share, what) => (progress.value = { share, what }))
  cancel = run.cancel
  try {
    const l = await run.done
    chosen.value = null
    await say('trace', {
      sha256: l.sha256,
      name: file.name,
      samples: l.samples,
      rate_hz: l.rate_hz,
      motor: motor.value || motors.value[0] || '',
      logger: logger.value,
      made: new Date(made.value || file.lastModified).toISOString(),
    })
  } catch (e) {
    problem.value =
      (e as Error).name === 'AbortError' ? 'Stopped. Nothing was stored.' : `${file.name}: ${(e as Error).message}`
  } finally {
    progress.value = null
  }
}

const numbered = computed(() => {
  const n: Record<string, number> = {}
  return (pulls.value?.analysis.events ?? []).map((e, i) => ({ e, i, n: (n[e.lever] = (n[e.lever] ?? 0) + 1) }))
})
</script>

<template>
  <div v-if="view" class="station bench">
    <div class="left">
      <section v-if="gate?.locked" class="halt" data-test="bench-locked">
        <b>The bench is locked.</b> Powering this vehicle would be unsafe until these are settled:
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
        @drop.prevent="((over = false), take1($event.dataTransfer?.files))"
      >
        <header>
          <h2>{{ byPulls ? "Pulls laid over one another, from the lever's edge" : pulls?.name }}</h2>
          <select v-if="traces.length > 1" v-model="chosen" class="which" aria-label="Which trace">
            <option :value="null">latest</option>
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
          No trace yet. Drop a recorded brake test here: a CSV with t_s, current_a and the levers, 200 readings a second
          or more.
        </p>
        <p v-if="error" class="stop" role="alert">{{ error.message }}</p>
      </section>

      <section v-if="pulls" class="panel">
        <header>
          <h2>{{ byPulls ? 'Every pull' : 'The recording' }}</h2>
          <span class="small"
            >{{ pulls.name }}, <span class="num">{{ Math.round(pulls.analysis.rate_hz) }}</span> readings a second,
            <span class="num">{{ pulls.analysis.samples }}</span> in all ·
            <a :href="`/api/traces/${pulls.sha256}.csv`">file</a>
            <template v-if="!locked && entry">
              · <TakeBack :key="entry" :entry="entry" what="this recording" /></template
          ></span>
        </header>
        <p v-for="w in pulls.analysis.warnings" :key="w.what + w.t_s" class="caution">
          {{ w.what }}{{ w.t_s ? `, at ${figure(w.t_s)} s` : '' }}
        </p>
        <TraceReplay :key="pulls.sha256" :pulls="pulls" />
        <div v-if="byPulls" class="scroll">
          <table data-test="pulls">
            <thead>
              <tr>
                <th>pull</th>
                <th class="num">at, s</th>
                <th>by</th>
                <th class="num">drive, A</th>
                <th class="num">latency, ms</th>
                <th class="num">left on, A</th>
                <th>result</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="p in numbered"
                :key="p.i"
                :class="{
                  bad: p.e.late,
                  lit: pull === p.i,
                }"
                @mouseenter="pull = p.i"
                @mouseleave="pull = null"
              >
                <td>{{ p.e.lever }} {{ p.n }}</td>
                <td class="num">{{ p.e.t_edge_s.toFixed(2) }}</td>
                <td>{{ p.e.way }}</td>
                <td class="num">{{ figure(p.e.i_pre_a) }}</td>
                <td class="num">{{ p.e.latency_ms !== null ? p.e.latency_ms.toFixed(0) : '–' }}</td>
                <td class="num">{{ figure(p.e.residual_a, 2) }}</td>
                <td>{{ p.e.relit ? 'came back while held' : (advice[p.e.result] ?? p.e.result) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>
    </div>

    <div class="side">
      <RigPanel />
      <section class="panel">
        <h2>Bring in a trace</h2>
        <div v-if="progress" class="progress" role="status">
          <progress :value="progress.share" max="1" :aria-label="progress.what" />
          <span class="small">{{ progress.what }}, {{ Math.round(progress.share * 100) }} %</span>
          <VBtn data-test="stop-import" @click="cancel()">Stop</VBtn>
        </div>
        <div v-else class="fields told">
          <label class="field">
            <span>Logger that made it</span>
            <select v-model="logger" :disabled="locked" data-test="trace-logger">
              <option value="" disabled>choose</option>
              <option v-for="t in loggers" :key="t.id" :value="t.id">
                {{ t.id }} {{ t.name }}{{ t.lapsed ? ' (lapsed)' : '' }}
              </option>
            </select>
          </label>
          <label v-if="motors.length > 1" class="field">
            <span>Motor whose lead it clamped</span>
            <select v-model="motor" :disabled="locked" data-test="trace-motor">
              <option value="" disabled>choose</option>
              <option v-for="m in motors" :key="m" :value="m">{{ m.replaceAll('_', ' ') }}</option>
            </select>
          </label>
          <label class="field">
            <span>Made at, if not when the file was written</span>
            <input v-model="made" type="datetime-local" :disabled="locked" data-test="trace-made" />
          </label>
        </div>
        <label v-if="!progress" class="file">
          <input
            type="file"
            accept=".csv,text/csv"
            :disabled="locked || gate?.locked"
            data-test="trace-file"
            @change="
              (take1(($event.target as HTMLInputElement).files), (($event.target as HTMLInputElement).value = ''))
            "
          />
          <span>Choose a trace file</span>
        </label>
        <p v-if="problem" class="stop" role="alert" data-test="import-problem">{{ problem }}</p>
      </section>

      <section v-if="levers.length" class="panel">
        <header>
          <h2>Per lever, milliseconds</h2>
          <span class="small">{{ pulls?.name }}</span>
          <a href="#" class="small" @click.prevent="working = true">Working</a>
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
            :j="{ ...j, words: `${j.words}, ${c.id.split('.')[1]}` }"
          />
        </div>
      </section>

      <LeverMatrix />

      <section class="panel">
        <h2>Checks of the bench</h2>
        <CheckList :checks="checks" />
      </section>
      <section class="panel">
        <h2>Where the pads bite</h2>
        <p class="small">Feel for it with the wheel still; the switch must close at least 1 mm of travel before.</p>
        <SheetField path="levers.left.bite_mm" title="left lever" />
        <SheetField path="levers.right.bite_mm" title="right lever" />
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
tr.lit td {
  background: var(--jade-pale);
}
.ribbons {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
.progress {
  display: grid;
  gap: 6px;
  margin-top: 10px;
}
progress {
  width: 100%;
  height: 14px;
  accent-color: var(--jade);
}
.file {
  display: grid;
  position: relative;
  margin-top: 10px;
}
.file input {
  position: absolute;
  inset: 0;
  opacity: 0;
}
.file span {
  min-height: 48px;
  display: grid;
  place-content: center;
  background: var(--button);
  color: var(--button-ink);
  border-radius: 3px;
  font-weight: 600;
}
.file input:disabled + span {
  opacity: 0.45;
}
.file input:focus-visible + span {
  outline: 3px solid var(--copper);
  outline-offset: 2px;
}
.side .file > span {
  text-decoration: none;
  justify-content: center;
}
</style>
