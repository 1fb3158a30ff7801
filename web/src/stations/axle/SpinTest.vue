<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { compute, type Schemas } from '@/api/client'
import SheetField from '@/parts/SheetField.vue'
import { withUnit } from '@/state/units'

/** The spin on the stand, and what it says of the motor's push. */
const props = defineProps<{ drive: Schemas['Drive']; index: number }>()
const at = computed(() => `drives.${props.index}.`)
const input = computed(() => {
  const d = props.drive
  const pairs = {
    declared_peak_nm: d.declared_peak_nm?.value,
    spin_rpm: d.spin_rpm?.value,
    spin_v: d.spin_v?.value,
    phase_limit_a: d.phase_limit_a?.value,
    battery_limit_a: d.battery_limit_a?.value,
  }
  return Object.fromEntries(Object.entries(pairs).filter(([, v]) => v != null))
})
const spun = computed(() => 'spin_rpm' in input.value && 'spin_v' in input.value)
const { data, error } = useQuery({
  queryKey: computed(() => ['calc', 'motor-torque', input.value]),
  queryFn: () => compute('motor-torque', input.value),
  enabled: spun,
  retry: false,
})
const out = computed(() => (spun.value ? data.value : undefined))
</script>

<template>
  <section class="panel" data-test="spin">
    <h2>{{ $t('Spin on the stand') }}</h2>
    <p class="caution">
      {{
        $t(
          "Vehicle strapped, stand rated, hands, hair and laces clear, the packs' plug in reach. Field weakening and any speed limit off; never reach for the spinning wheel.",
        )
      }}
    </p>
    <SheetField :path="`${at}spin_rpm`" />
    <SheetField :path="`${at}spin_v`" />
    <SheetField :path="`${at}phase_limit_a`" />
    <p v-if="out" role="status">
      <b class="num">{{ withUnit(out.spin_torque_nm, 'N·m') }}</b>
      {{ $t('by the spin at {phase_a} of phase current. Result used:', { phase_a: withUnit(out.phase_a, 'A') }) }}
      <b class="num">{{ withUnit(out.peak_nm, 'N·m') }}</b>,
      {{ out.basis === 'spin' ? $t('from the spin') : $t('as declared') }}.
    </p>
    <p v-if="out?.disagree" class="stop">{{ $t('Declared and spun torque are too far apart to believe both.') }}</p>
    <p v-if="spun && error" class="attend">{{ error.message }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
</style>
