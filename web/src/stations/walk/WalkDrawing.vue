<script setup lang="ts">
import { $t } from '@/lib/say'
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import VehicleDrawing from '@/parts/VehicleDrawing.vue'
import HarnessMap from '@/stations/wiring/HarnessMap.vue'
import { useInspection } from '@/state/inspection'

/** The vehicle with the places of a gate's checks, or its power leads. */
defineProps<{ gate: Schemas['GateState']; zone: string | null }>()
const emit = defineEmits<{ zone: [zone: string] }>()
const lead = defineModel<number | null>('lead', { required: true })
const { id, view, evaluation } = useInspection()
/** The leads are drawn, not the places. */
const leadsDrawn = ref(true)
</script>

<template>
  <section v-if="view" class="panel drawing">
    <header>
      <h2>{{ view.sheet.name }}</h2>
      <nav v-if="gate.gate <= 3" class="gates" :aria-label="$t('Gate on the drawing')">
        <RouterLink
          v-for="g in [1, 2, 3]"
          :key="g"
          :to="{ name: 'walk', params: { id, gate: String(g) } }"
          :aria-current="g === gate.gate ? 'true' : undefined"
          >{{ evaluation?.gates[g - 1]?.name.toLowerCase() }}</RouterLink
        >
      </nav>
      <nav v-else-if="gate.leads" class="gates" :aria-label="$t('What is drawn')">
        <button
          v-for="[n, on] in [
            [$t('power leads'), true],
            [$t('places'), false],
          ] as const"
          :key="n"
          type="button"
          :aria-pressed="leadsDrawn === on"
          @click="leadsDrawn = on"
        >
          {{ n }}
        </button>
      </nav>
      <span v-else class="small">{{ $t('touch a place to see its checks') }}</span>
    </header>
    <HarnessMap v-if="gate.leads && leadsDrawn" :picked="lead" @pick="lead = $event" />
    <VehicleDrawing v-else :view="view" :zone="zone" :gate="gate.gate" @zone="emit('zone', $event)" />
  </section>
</template>

<style scoped>
.gates {
  display: flex;
  gap: 16px;
}
.gates button {
  border: 0;
  background: transparent;
  font: inherit;
  cursor: pointer;
}
.gates :is(a, button) {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
  color: var(--soft);
  font-size: 14px;
}
.gates :is([aria-current], [aria-pressed='true']) {
  color: var(--ink);
  font-weight: 700;
}
</style>
