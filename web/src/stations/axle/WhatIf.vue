<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { compute, type Judged, type Schemas } from '@/api/client'
import { withUnit } from '@/state/units'
import { figure } from '@/lib/words'
import GateMark from '@/parts/GateMark.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'

/** Pulls the levers without touching the record, and sees the ribbons move. */
const props = defineProps<{
  input: Schemas['HoldInput']
  u: Record<string, number>
  drive: Schemas['Drive']
}>()
const sides = computed(() => props.input.sides)
const nut = ref(0)
const arm = ref(0)
const share = ref(100)
const judged = shallowRef<Judged[] | null>(null)
const schools = shallowRef<Schemas['HoldSchools'] | null>(null)
const schoolWords: [keyof Schemas['HoldSchools'], string][] = [
  ['by_load', $t('by the load')],
  ['always', $t('an arm on every side')],
  ['small_motor', $t('small motors spared')],
]
/** The peak goes with the phase current; a battery limit by itself does not tell it. */
const limit = computed(() => props.drive.phase_limit_a?.value ?? null)
const armed = computed(() => sides.value.some((s) => s.arm))

function reset() {
  nut.value = Math.min(...sides.value.map((s) => s.nut_nm))
  arm.value = Math.max(0, ...sides.value.map((s) => s.arm?.length_mm ?? 0))
  share.value = 100
  judged.value = null
  schools.value = null
}
watch(() => props.input, reset, { immediate: true })

let turn = 0
async function ask() {
  const own = ++turn
  const input = structuredClone(props.input)
  input.peak_nm *= share.value / 100
  for (const s of input.sides) {
    s.nut_nm = nut.value
    if (s.arm) s.arm.length_mm = arm.value
  }
  const r = await compute('axle-hold', { ...input, u: props.u })
  if (own !== turn) return
  judged.value = r.judged ?? []
  schools.value = r.refused ? { by_load: false, always: false, small_motor: false } : r.schools
}

/** One question at a time, the newest last: as fast as the answers come. */
let asked = false
let again = false
async function run() {
  if (asked) {
    again = true
    return
  }
  asked = true
  do {
    again = false
    await ask().catch(() => (judged.value = null))
  } while (again)
  asked = false
}
const lines = computed(() => judged.value?.filter((j) => j.value !== null && j.part === 'hold') ?? [])
</script>

<template>
  <div class="whatif">
    <label class="field">
      <span
        >{{ $t('Nut torque, both:') }} <b class="num">{{ withUnit(nut, 'N·m') }}</b></span
      >
      <input v-model.number="nut" type="range" min="0" max="60" step="0.5" @input="run" />
    </label>
    <label v-if="armed" class="field">
      <span
        >{{ $t('Arm length:') }} <b class="num">{{ withUnit(arm, 'mm') }}</b></span
      >
      <input v-model.number="arm" type="range" min="30" max="200" step="1" @input="run" />
    </label>
    <label v-if="limit" class="field">
      <span
        >{{ $t('Phase current limit:') }} <b class="num">{{ figure((limit * share) / 100) }} A</b></span
      >
      <input v-model.number="share" type="range" min="40" max="120" step="1" @input="run" />
    </label>
    <template v-if="lines.length">
      <MarginRibbon v-for="j in lines" :key="j.output" :j="j" />
      <ul v-if="schools" class="rows schools" data-test="what-if-schools">
        <li v-for="[k, n] in schoolWords" :key="k">
          <span>{{ n }}</span>
          <GateMark
            :state="schools[k] ? 'open' : 'held'"
            :size="24"
            :label="schools[k] ? $t('would hold') : $t('would not hold')"
          />
        </li>
      </ul>
      <ActButton variant="text" @click="reset">{{ $t('Back to what was measured') }}</ActButton>
    </template>
    <p v-else class="small">{{ $t('Nothing here is saved. Slide to see what would change.') }}</p>
  </div>
</template>

<style scoped>
.whatif {
  display: grid;
  gap: 8px;
}
.schools li {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
</style>
