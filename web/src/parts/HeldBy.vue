<script setup lang="ts">
import { $t } from '@/lib/say'
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
      open: $t('Why the gate is open'),
      ajar: $t('Why the gate is ajar'),
      held: $t('Why the gate is held'),
      shut: $t('Why the gate is shut'),
    })[evaluation.value?.verdict ?? 'held'],
)
const locked = computed(() => evaluation.value?.gates.filter((g) => g.locked) ?? [])
const lockedNames = computed(() => locked.value.map((g) => g.name.toLowerCase()).join($t(' and ')))
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
        <b>{{
          evaluation.unsettled === 1
            ? $t('1 check not settled')
            : $t('{n} checks not settled', { n: evaluation.unsettled })
        }}</b>
        <div class="small">
          {{ minutes(evaluation.minutes)
          }}<template v-if="locked.length">{{
            locked.length === 1
              ? $t('; {gate} is locked until earlier gates are cleared', { gate: lockedNames })
              : $t('; {gates} are locked until earlier gates are cleared', { gates: lockedNames })
          }}</template>
        </div>
      </li>
      <li v-if="!evaluation.findings.length && !evaluation.unsettled" class="small">
        {{ $t('Nothing but notes. Ready to sign.') }}
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
