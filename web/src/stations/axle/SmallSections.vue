<script setup lang="ts">
import { computed, ref } from 'vue'
import { useInspection } from '@/state/inspection'
import { at } from '@/lib/sheet'
import { bare } from '@/state/units'
import GivenForm from '@/parts/GivenForm.vue'
import MarginRibbon from '@/parts/MarginRibbon.vue'

/** Two small sections: the little spacer on the sprocket side, and a disc screw in the motor's cover. */
const props = defineProps<{ which: 'spacer' | 'rotor' }>()
const { view, check } = useInspection()
const key = computed(() => (props.which === 'spacer' ? 'spacer_fit' : 'rotor_bolt'))
const c = computed(() => check(props.which === 'spacer' ? 'wheel.spacer' : 'rotor.bolt'))
const open = ref(false)
const g = computed(() => at(view.value?.sheet, `given.${key.value}`) as Record<string, { value?: number }> | undefined)
const n = (k: string, d: number) => g.value?.[k]?.value ?? d
const bad = (out: string) => c.value?.judged.some((j) => j.output === out && j.result === 'fail')
const K = 7
/** Engaged and left, as the core works them out. */
const engaged = computed(() => c.value?.judged.find((j) => j.output === 'engaged_mm')?.value ?? null)
const bottom = computed(() => c.value?.judged.find((j) => j.output === 'bottom_mm')?.value ?? null)
</script>

<template>
  <section v-if="c" class="panel">
    <header>
      <h2>{{ which === 'spacer' ? $t('Little spacer, cut along the axle') : $t('Disc screw in the cover') }}</h2>
      <button type="button" class="plain" :aria-expanded="open" :data-test="`measures-${which}`" @click="open = !open">
        {{ open ? $t('Hide measures') : $t('Measures') }}
      </button>
    </header>
    <svg
      v-if="which === 'spacer'"
      viewBox="0 0 340 190"
      role="img"
      :aria-label="$t('Spacer, lock ring and bearing race in section')"
    >
      <g transform="translate(70 95)">
        <!-- bearing race on the left, standing with the axle -->
        <rect
          :x="-46"
          :y="(-n('race_od_mm', 17) / 2) * K"
          width="46"
          :height="n('race_od_mm', 17) * K"
          fill="var(--steel-pale)"
          stroke="var(--ink)"
        />
        <!-- lock ring, cut: two walls -->
        <g fill="var(--hide)" stroke="var(--ink)">
          <rect
            x="6"
            :y="(-n('lockring_id_mm', 20) / 2) * K - 14"
            :width="Math.max(4, n('recess_mm', 5) * K - 6)"
            height="14"
          />
          <rect
            x="6"
            :y="(n('lockring_id_mm', 20) / 2) * K"
            :width="Math.max(4, n('recess_mm', 5) * K - 6)"
            height="14"
          />
        </g>
        <!-- the spacer -->
        <rect
          x="0"
          :y="(-n('spacer_od_mm', 17) / 2) * K"
          :width="n('spacer_length_mm', 6) * K"
          :height="n('spacer_od_mm', 17) * K"
          fill="var(--jade)"
          fill-opacity="0.75"
          stroke="var(--ink)"
        />
        <rect
          x="-60"
          :y="(-n('shaft_mm', 12) / 2) * K"
          width="300"
          :height="n('shaft_mm', 12) * K"
          fill="var(--panel)"
          stroke="var(--ink)"
        />
        <text x="110" y="5" class="t">{{ $t('shaft {shaft_mm}', { shaft_mm: bare(g?.shaft_mm?.value, 'mm') }) }}</text>
        <text x="110" y="-52" class="t">
          {{
            $t('spacer {spacer_od_mm} × {spacer_length_mm}', {
              spacer_od_mm: bare(g?.spacer_od_mm?.value, 'mm'),
              spacer_length_mm: bare(g?.spacer_length_mm?.value, 'mm'),
            })
          }}
        </text>
        <text x="110" y="-74" :class="['t', { stop: bad('clears_lockring') }]">
          {{ $t('lock ring {lockring_id_mm}', { lockring_id_mm: bare(g?.lockring_id_mm?.value, 'mm') }) }}
        </text>
        <text x="110" y="62" :class="['t', { stop: bad('seats_on_race') }]">
          {{ $t('race {race_od_mm}', { race_od_mm: bare(g?.race_od_mm?.value, 'mm') }) }}
        </text>
      </g>
    </svg>
    <svg v-else viewBox="0 0 340 190" role="img" :aria-label="$t('Disc screw in section')">
      <g transform="translate(60 40)">
        <rect x="0" y="0" width="220" :height="n('rotor_mm', 1.85) * K" fill="var(--steel)" stroke="var(--ink)" />
        <rect
          x="0"
          :y="n('rotor_mm', 1.85) * K"
          width="220"
          :height="n('spacer_mm', 0) * K"
          fill="var(--steel-pale)"
          stroke="var(--ink)"
        />
        <rect
          x="0"
          :y="(n('rotor_mm', 1.85) + n('spacer_mm', 0)) * K"
          width="220"
          height="100"
          fill="var(--hide-pale)"
          stroke="var(--ink)"
        />
        <rect
          :x="110 - (n('thread_d_mm', 5) / 2) * K"
          :y="(n('rotor_mm', 1.85) + n('spacer_mm', 0)) * K"
          :width="n('thread_d_mm', 5) * K"
          :height="Math.min(98, n('hole_mm', 9) * K)"
          fill="var(--panel)"
          stroke="var(--ink)"
        />
        <rect
          :x="110 - n('thread_d_mm', 5) * K * 0.95"
          y="-16"
          :width="n('thread_d_mm', 5) * K * 1.9"
          height="16"
          rx="6"
          fill="var(--hide)"
          stroke="var(--ink)"
        />
        <rect
          :x="110 - (n('thread_d_mm', 5) / 2) * K + 2"
          y="0"
          :width="n('thread_d_mm', 5) * K - 4"
          :height="n('bolt_mm', 10) * K"
          :fill="bad('bottom_mm') ? 'var(--plum)' : 'var(--jade)'"
          fill-opacity="0.8"
          stroke="var(--ink)"
        />
        <text x="228" y="12" class="t">{{ $t('disc') }}</text>
        <text x="150" y="60" :class="['t', { stop: bad('engaged_mm') }]">
          {{ $t('engaged {engaged}', { engaged: bare(engaged, 'mm') }) }}
        </text>
        <text x="150" y="84" :class="['t', { stop: bad('bottom_mm') }]">
          {{ $t('to the bottom {bottom}', { bottom: bare(bottom, 'mm', 2) }) }}
        </text>
        <text x="228" y="106" class="t">{{ $t('cover') }}</text>
      </g>
    </svg>
    <div class="ribbons">
      <MarginRibbon v-for="j in c.judged.filter((x) => x.value !== null)" :key="j.output" :j="j" />
    </div>
    <p v-for="j in c.judged.filter((x) => x.value === null && x.result === 'fail')" :key="j.output" class="stop">
      {{ $t('Not met: {words}', { words: j.words }) }}
    </p>
    <p v-if="c.needs.length" class="small">
      {{ $t('Readings missing: {needs}.', { needs: c.needs.map((x) => x.title).join(', ') }) }}
    </p>
    <GivenForm v-if="open" :path="`given.${key}`" />
  </section>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 460px;
  display: block;
}
.t {
  font: 400 13.5px var(--words);
  fill: var(--ink);
}
.t.stop {
  fill: var(--plum-text);
  font-weight: 700;
}
.ribbons {
  display: grid;
  gap: 10px;
}
</style>
