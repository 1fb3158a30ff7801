<script setup lang="ts">
import { $t } from '@/lib/say'
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
    { name: $t('dropouts'), v: sum((x) => x.dropout_nm), fill: 'var(--steel)' },
    { name: $t('tab washers'), v: sum((x) => x.washer_nm), fill: 'var(--steel-pale)' },
    { name: $t('arm, left'), v: sides[0]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: $t('arm, right'), v: sides[1]?.arm_nm ?? 0, fill: 'var(--jade)' },
    { name: $t('friction of the nuts'), v: sum((x) => x.slip_nm), fill: 'none', lent: true },
  ]
})
const asked = computed(() => props.hold.judged.find((j) => j.output === 'form_ratio')?.lower ?? 0)
const ribbons = computed(() => [...props.hold.judged, ...(props.rock?.judged ?? [])].filter((j) => j.value !== null))
const broken = computed(() => props.hold.judged.filter((j) => j.value === null && j.result === 'fail'))
</script>

<template>
  <section class="panel" data-test="hold" :data-seq="view?.seq">
    <header>
      <h2>
        {{
          $t('What holds {input}', {
            input: input ? $t('the motor’s {peak_nm}', { peak_nm: withUnit(input.peak_nm, 'N·m') }) : $t('the motor'),
          })
        }}
      </h2>
      <a
        v-if="why?.result?.working?.length"
        href="#"
        class="small"
        data-test="working"
        @click.prevent="emit('working')"
        >{{ $t('Working, {n} steps', { n: why.result.working.length }) }}</a
      >
    </header>
    <template v-if="out && input">
      <HoldStrip :strips="strips" :peak="input.peak_nm" :asked="asked" :asked-words="$t('required without friction')" />
      <p v-if="why?.peak" class="small" data-test="peak-basis">
        {{ $t("The motor's peak:") }} <b class="num">{{ withUnit(why.peak.nm, 'N·m') }}</b>{{
          $t(', {words}. Friction', { words: why.peak.words })
        }}
        <b class="num">{{ figure(input.sides[0]!.friction) }}</b> {{ $t('and nut factor') }}
        <b class="num">{{ figure(input.sides[0]!.nut_factor) }}</b> {{ $t('are house values.') }}
      </p>
      <p v-if="why?.scatter" class="small" data-test="scatter">
        {{
          $t(
            'Allowing for what nobody measured (yield strengths, friction, nut factor, bands and seats{why}): without friction',
            { why: why.peak?.by_ratio ? $t(', phase current') : '' },
          )
        }}
        <b class="num">{{
          $t('{p05} to {p95} ×', { p05: figure(why.scatter.form.p05), p95: figure(why.scatter.form.p95) })
        }}</b>{{ $t(', with friction') }}
        <b class="num">{{
          $t('{p05} to {p95} ×', { p05: figure(why.scatter.total.p05), p95: figure(why.scatter.total.p95) })
        }}</b>
        {{ $t('in nine cases of ten; it holds the peak in') }}
        <b class="num">{{
          $t('{n} of {draws} draws', {
            n: Math.round(why.scatter.holds * why.scatter.draws),
            draws: why.scatter.draws,
          })
        }}</b>{{ $t('. The limits judge the value itself; this is what their margin is for.') }}
      </p>
      <div class="two">
        <div class="ribbons">
          <p class="small">{{ $t('The shaded band shows the uncertainty') }} <TermHint term="U" />.</p>
          <MarginRibbon v-for="j in ribbons" :key="j.output" :j="j" />
          <p v-for="j in broken" :key="j.output" class="stop">
            {{ $t('Not met:') }} <b>{{ j.words }}</b>
          </p>
        </div>
        <div>
          <h3>{{ $t('As other') }} <TermHint term="school" :words="$t('schools')" /> {{ $t('would judge') }}</h3>
          <ul class="rows schools" data-test="schools">
            <li v-for="s in hold.schools" :key="s.id">
              <span
                >{{ s.title }}<small v-if="s.chosen">{{ ' ' + $t("· the house's") }}</small></span
              >
              <GateMark
                :state="s.pass ? 'open' : 'held'"
                :size="28"
                :label="s.pass ? $t('would hold') : $t('would not hold')"
              />
            </li>
          </ul>
        </div>
      </div>
    </template>
    <ul v-else class="rows" data-test="hold-needs">
      <li v-for="n in hold.needs" :key="n.title + n.words">
        {{ n.title }}: <span class="attend">{{ n.words }}</span>
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
