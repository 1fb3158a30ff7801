<script setup lang="ts">
import TermHint from '@/parts/TermHint.vue'
import { computed } from 'vue'
import type { CheckState, Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import type { useExplain } from '@/state/explain'
import { withUnit } from '@/state/units'
import { figure } from '@/lib/words'
import GateMark from '@/parts/GateMark.vue'
import HoldStrip, { type Strip } from '@/parts/HoldStrip.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'

/** What carries the motor's torque, part by part, against what is asked for. */
const props = defineProps<{
  hold: CheckState
  rock?: CheckState
  why?: ReturnType<typeof useExplain<'axle-hold'>>['value']
}>()
const emit = defineEmits<{ working: [] }>()
const { view } = useInspection()
const out = computed(() => (props.hold.judged.length ? props.why?.result : undefined))
const input = computed(() => props.why?.input)
const strips = computed<Strip[]>(() => {
  const sides = out.value?.sides ?? []
  const sum = (f: (s: Schemas['SideOutput']) => number) => sides.reduce((a, x) => a + f(x), 0)
  return [
    { name: 'dropouts', v: sum((x) => x.dropout_nm), fill: 'var(--steel)' },
    { name: 'tab washers', v: sum((x) => x.washer_nm), fill: 'var(--steel-pale)' },
    { name: 'arm, left', v: sides[0]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: 'arm, right', v: sides[1]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: 'friction of the nuts', v: sum((x) => x.slip_nm), fill: 'none', lent: true },
  ]
})
const asked = computed(() => props.hold.judged.find((j) => j.output === 'form_ratio')?.lower ?? 0)
const ribbons = computed(() => [...props.hold.judged, ...(props.rock?.judged ?? [])].filter((j) => j.value !== null))
const broken = computed(() => props.hold.judged.filter((j) => j.value === null && j.result === 'fail'))
</script>

<template>
  <section class="panel" data-test="hold" :data-seq="view?.seq">
    <header>
      <h2>What holds {{ input ? `the motor’s ${withUnit(input.peak_nm, 'N·m')}` : 'the motor' }}</h2>
      <a v-if="why?.result?.working?.length" href="#" class="small" data-test="working" @click.prevent="emit('working')"
        >Working, {{ why.result.working.length }} steps</a
      >
    </header>
    <template v-if="out && input">
      <HoldStrip :strips="strips" :peak="input.peak_nm" :asked="asked" asked-words="required without friction" />
      <p v-if="why?.peak" class="small" data-test="peak-basis">
        The motor's peak: <b class="num">{{ withUnit(why.peak.nm, 'N·m') }}</b>, {{ why.peak.words }}. Friction
        <b class="num">{{ figure(input.sides[0]!.friction) }}</b> and nut factor
        <b class="num">{{ figure(input.sides[0]!.nut_factor) }}</b> are house values.
      </p>
      <p v-if="why?.scatter" class="small" data-test="scatter">
        Allowing for what nobody measured (yield strengths, friction, nut factor, bands and seats{{
          why.peak?.by_ratio ? ', phase current' : ''
        }}): without friction
        <b class="num">{{ figure(why.scatter.form.p05) }} to {{ figure(why.scatter.form.p95) }} ×</b>, with friction
        <b class="num">{{ figure(why.scatter.total.p05) }} to {{ figure(why.scatter.total.p95) }} ×</b>
        in nine cases of ten; it holds the peak in
        <b class="num">{{ Math.round(why.scatter.holds * why.scatter.draws) }} of {{ why.scatter.draws }} draws</b>. The
        limits judge the value itself; this is what their margin is for.
      </p>
      <div class="two">
        <div class="ribbons">
          <p class="small">The shaded band shows the uncertainty <TermHint term="U" />.</p>
          <MarginRibbon v-for="j in ribbons" :key="j.output" :j="j" />
          <p v-for="j in broken" :key="j.output" class="stop">
            Not met: <b>{{ j.words }}</b>
          </p>
        </div>
        <div>
          <h3>As other <TermHint term="school" words="schools" /> would judge</h3>
          <ul class="rows schools" data-test="schools">
            <li v-for="s in hold.schools" :key="s.id">
              <span>{{ s.title }}<small v-if="s.chosen"> · the house's</small></span>
              <GateMark
                :state="s.pass ? 'open' : 'held'"
                :size="28"
                :label="s.pass ? 'would hold' : 'would not hold'"
              />
            </li>
          </ul>
        </div>
      </div>
    </template>
    <ul v-else class="rows" data-test="hold-needs">
      <li v-for="n in hold.needs" :key="n.path">
        {{ n.title }}: <span class="attend">{{ n.why }}</span>
      </li>
    </ul>
  </section>
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
a.small {
  min-height: 30px;
}
@media (max-width: 980px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
