<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useCalculations, useWorkshop } from '@/state/workshop'

/** The calculations to choose from, found by what they are about. */
defineProps<{ name: string }>()
const calcs = useCalculations()
const { workshop } = useWorkshop()
const router = useRouter()
const search = ref('')

/** The sums in the order of the gates that ask for them; what no gate asks stands last. */
const groups = computed(() => {
  const first = new Map<string, number>()
  for (const c of workshop.value?.checks ?? []) if (c.calc) first.set(c.calc, Math.min(c.gate, first.get(c.calc) ?? 9))
  const word = search.value.trim().toLowerCase()
  const found = (calcs.value ?? []).filter((c) =>
    [c.title, c.summary, c.name, ...c.inputs.map((f) => f.doc ?? '')].some((t) => t.toLowerCase().includes(word)),
  )
  const by = new Map<number, typeof found>()
  for (const c of found) by.set(first.get(c.name) ?? 9, [...(by.get(first.get(c.name) ?? 9) ?? []), c])
  return [...by].sort(([a], [b]) => a - b).map(([gate, list]) => ({ name: gates[gate - 1]!, list }))
})
const gates = [
  $t('Intake'),
  $t('Frame and axle'),
  $t('Torque'),
  $t('Wiring'),
  $t('Battery'),
  $t('Brakes and cutoff'),
  $t('Ride'),
  $t('Law'),
  $t('For any gate'),
]
</script>

<template>
  <nav class="panel" :aria-label="$t('Calculations')">
    <label class="field">
      <span>{{ $t('What do you want to know?') }}</span>
      <input v-model="search" type="search" :placeholder="$t('arm, fuse, chain…')" data-test="sum-search" />
    </label>
    <label class="field pick">
      <span>{{ $t('Sum') }}</span>
      <select
        :value="name"
        @change="router.push({ name: 'sums', params: { name: ($event.target as HTMLSelectElement).value } })"
      >
        <optgroup v-for="g in groups" :key="g.name" :label="g.name">
          <option v-for="c in g.list" :key="c.name" :value="c.name">{{ c.title }}</option>
        </optgroup>
      </select>
    </label>
    <div v-for="g in groups" :key="g.name" class="group">
      <h2>{{ g.name }}</h2>
      <ul>
        <li v-for="c in g.list" :key="c.name">
          <RouterLink
            :to="{ name: 'sums', params: { name: c.name } }"
            :aria-current="c.name === name ? 'page' : undefined"
            >{{ c.title }}</RouterLink
          >
        </li>
      </ul>
    </div>
    <p v-if="!groups.length" class="small">{{ $t('No sum matches.') }}</p>
  </nav>
</template>

<style scoped>
nav {
  display: grid;
  gap: 10px;
}
nav h2 {
  font-size: 13px;
  color: var(--soft);
}
nav ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
nav a {
  display: block;
  padding: 8px 6px;
  text-decoration: none;
  border-top: 1px solid var(--line);
}
nav a[aria-current] {
  background: var(--jade-pale);
  font-weight: 700;
}
.pick {
  display: none;
}
@media (max-width: 820px) {
  .group {
    display: none;
  }
  .pick {
    display: block;
  }
}
</style>
