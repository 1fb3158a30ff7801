<script setup lang="ts">
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { who } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { clock, verdictWord } from '@/lib/words'
import GateMark from './GateMark.vue'

const emit = defineEmits<{ next: [] }>()
const { view, evaluation, away, waiting, savedAt } = useInspection()
const { workshop } = useWorkshop()

const kind = computed(() => {
  const s = view.value?.sheet
  if (!s) return ''
  const body = { bicycle: 'bicycle', delta: 'delta trike', tadpole: 'tadpole trike' }[s.kind] ?? s.kind
  const drive = [...new Set((s.drives ?? []).map((d) => d.kind.replace('_', ' ')))].join(' and ')
  return drive ? `${body}, ${drive}` : body
})
const saved = computed(() => {
  if (away.value) return `server away · ${waiting.value.length} waiting here`
  if (waiting.value.length) return `sending ${waiting.value.length}`
  return savedAt.value ? `saved ${clock(savedAt.value.toISOString())}` : 'all saved'
})
</script>

<template>
  <header v-if="view" class="strip">
    <h1>{{ view.sheet.name }}</h1>
    <span class="soft">{{ kind }} · {{ view.place }}{{ view.bay ? ` · bay ${view.bay}` : '' }}</span>
    <span class="no num">No. {{ view.number }}</span>
    <button type="button" class="plain" title="next open check (N)" data-test="next-open" @click="emit('next')">
      Next open
    </button>
    <span class="gap" />
    <label class="who">
      <span class="sr">Who is working</span>
      <select v-model="who">
        <option v-for="p in workshop?.people" :key="p.id" :value="p.name">{{ p.name }}</option>
      </select>
    </label>
    <span :class="['soft', { attend: away }]" role="status" data-test="saved">{{ saved }}</span>
    <span class="verdict" data-test="verdict" aria-live="polite">
      <GateMark :state="evaluation?.verdict ?? 'not_begun'" :size="38" />
      <b>{{ verdictWord[evaluation?.verdict ?? ''] }}</b>
    </span>
  </header>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
  min-height: 58px;
  padding: 7px 20px;
  border-bottom: 1px solid var(--line);
}
.soft {
  color: var(--soft);
  font-size: 14.5px;
}
.no {
  border: 1px solid var(--ink);
  border-radius: 3px;
  padding: 2px 9px;
  font-size: 13.5px;
}
.gap {
  flex: 1;
}
.who select {
  border-color: transparent;
  background: transparent;
  min-height: 44px;
  width: auto;
}
.verdict {
  display: flex;
  align-items: center;
  gap: 12px;
  font-size: 16px;
}
</style>
