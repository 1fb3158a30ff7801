<script setup lang="ts">
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { checkPlace } from '@/lib/places'
import { minutes, severityWord } from '@/lib/words'
import { found } from '@/lib/told'
import { bare, withUnit } from '@/state/units'

/** Why the gate stands as it does: the findings, worst first, then what is open. */
const { id, evaluation } = useInspection()
const title = computed(
  () =>
    ({
      open: 'Why the gate is open',
      ajar: 'Why the gate is ajar',
      held: 'Why the gate is held',
      shut: 'Why the gate is shut',
    })[evaluation.value?.verdict ?? 'held'],
)
const locked = computed(() => evaluation.value?.gates.filter((g) => g.locked) ?? [])
</script>

<template>
  <section v-if="evaluation" class="panel">
    <h2>{{ title }}</h2>
    <ul class="rows">
      <li v-for="f in evaluation.findings" :key="f.check + f.output">
        <RouterLink :to="checkPlace(id, { id: f.check, gate: f.gate })">
          <b :class="f.severity === 'stop' ? 'stop' : 'attend'">{{ f.title }}</b>
        </RouterLink>
        <div class="small">
          {{ f.words }}{{ found(f.judged, { bare, full: withUnit }) }} · {{ severityWord[f.severity] }}
        </div>
      </li>
      <li v-if="evaluation.unsettled">
        <b>{{ evaluation.unsettled }} {{ evaluation.unsettled === 1 ? 'check' : 'checks' }} not settled</b>
        <div class="small">
          {{ minutes(evaluation.minutes)
          }}<template v-if="locked.length"
            >; {{ locked.map((g) => g.name.toLowerCase()).join(' and ') }} {{ locked.length > 1 ? 'are' : 'is' }} locked
            until earlier gates are cleared</template
          >
        </div>
      </li>
      <li v-if="!evaluation.findings.length && !evaluation.unsettled" class="small">
        Nothing but notes. Ready to sign.
      </li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
}
a {
  text-decoration: none;
}
</style>
