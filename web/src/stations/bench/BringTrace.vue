<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'
import StateNote from '@/parts/StateNote.vue'
import { importTrace } from './importTrace'

/** Brings in a recording that was made elsewhere, by a file that is chosen or dropped. */
const emit = defineEmits<{ brought: [] }>()
const { view, evaluation, say, locked } = useInspection()
const { tools } = useWorkshop()
const gate = computed(() => evaluation.value?.gates[5])

/** A recording counts with the logger that made it, the motor it listened to and its time. */
const loggers = computed(() => tools.value.filter((t) => t.kind === 'logger'))
const logger = ref('')
const motors = computed(() => [...new Set((view.value?.sheet.drives ?? []).map((d) => d.kind))])
const motor = ref('')
const made = ref('')
const told = computed(() => logger.value !== '' && (motors.value.length < 2 || motor.value !== ''))

const progress = ref<{ share: number; what: string } | null>(null)
const problem = ref('')
let cancel = () => {}

async function take(files: FileList | null | undefined) {
  const file = files?.[0]
  if (!file || locked.value) return
  if (gate.value?.locked) {
    problem.value = $t('The bench is locked: settle what stands before it first.')
    return
  }
  if (!told.value) {
    problem.value = $t('First choose the logger that recorded it, and the motor.')
    return
  }
  problem.value = ''
  progress.value = { share: 0, what: $t('sending') }
  const run = importTrace(file, (share, what) => (progress.value = { share, what }))
  cancel = run.cancel
  try {
    const l = await run.done
    emit('brought')
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
      (e as Error).name === 'AbortError' ? $t('Stopped. Nothing was stored.') : `${file.name}: ${(e as Error).message}`
  } finally {
    progress.value = null
  }
}
defineExpose({ take })
</script>

<template>
  <section class="panel">
    <h2>{{ $t('Import a trace') }}</h2>
    <div v-if="progress" class="progress" role="status">
      <progress :value="progress.share" max="1" :aria-label="progress.what" />
      <span class="small">{{ progress.what }}, {{ Math.round(progress.share * 100) }} %</span>
      <ActButton data-test="stop-import" @click="cancel()">{{ $t('Stop') }}</ActButton>
    </div>
    <div v-else class="fields told">
      <label class="field">
        <span>{{ $t('Logger that recorded it') }}</span>
        <select v-model="logger" :disabled="locked" data-test="trace-logger">
          <option value="" disabled>{{ $t('choose') }}</option>
          <option v-for="t in loggers" :key="t.id" :value="t.id">
            {{ t.id }} {{ t.name }}{{ t.lapsed ? $t(' (lapsed)') : '' }}
          </option>
        </select>
      </label>
      <label v-if="motors.length > 1" class="field">
        <span>{{ $t('Motor whose lead it clamped') }}</span>
        <select v-model="motor" :disabled="locked" data-test="trace-motor">
          <option value="" disabled>{{ $t('choose') }}</option>
          <option v-for="m in motors" :key="m" :value="m">{{ term(m) }}</option>
        </select>
      </label>
      <label class="field">
        <span>{{ $t('Recorded at, if not when the file was written') }}</span>
        <input v-model="made" type="datetime-local" :disabled="locked" data-test="trace-made" />
      </label>
    </div>
    <label v-if="!progress" class="file">
      <input
        type="file"
        accept=".csv,text/csv"
        :disabled="locked || gate?.locked"
        data-test="trace-file"
        @change="(take(($event.target as HTMLInputElement).files), (($event.target as HTMLInputElement).value = ''))"
      />
      <span>{{ $t('Choose a trace file') }}</span>
    </label>
    <StateNote :error="problem" data-test="import-problem" />
  </section>
</template>

<style scoped>
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
