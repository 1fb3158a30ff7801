<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { placeWords } from '@/lib/places'
import { ofOthers } from '@/state/outbox'
import { clock, verdictWord, term } from '@/lib/words'
import GateMark from './GateMark.vue'
import PersonButton from './PersonButton.vue'

const emit = defineEmits<{ next: [] }>()
const { view, evaluation, away, waiting, savedAt, others } = useInspection()

const kind = computed(() => {
  const s = view.value?.sheet
  if (!s) return ''
  const body = { bicycle: $t('bicycle'), delta: $t('delta trike'), tadpole: $t('tadpole trike') }[s.kind] ?? s.kind
  const drive = [...new Set((s.drives ?? []).map((d) => term(d.kind)))].join($t(' and '))
  return drive ? `${body}, ${drive}` : body
})
const saved = computed(() => {
  if (away.value)
    return waiting.value.length ? $t('server away · {n} waiting here', { n: waiting.value.length }) : $t('server away')
  const theirs = ofOthers.value.filter((w) => w.inspection === view.value?.id)
  if (theirs.length) return $t('{n} of {person} wait for them to sign in', { n: theirs.length, person: theirs[0]!.by })
  if (waiting.value.length) return $t('sending {n}', { n: waiting.value.length })
  return savedAt.value ? $t('saved {at}', { at: clock(savedAt.value.toISOString()) }) : $t('all saved')
})
</script>

<template>
  <header v-if="view" class="strip">
    <h1>{{ view.sheet.name }}</h1>
    <span class="soft">{{ kind }} · {{ view.place }}{{ view.bay ? $t(' · bay {bay}', { bay: view.bay }) : '' }}</span>
    <span class="no num">{{ $t('No. {number}', { number: view.number }) }}</span>
    <button type="button" class="plain" :title="$t('next open check (N)')" data-test="next-open" @click="emit('next')">
      {{ $t('Next open') }}
    </button>
    <span class="gap" />
    <span v-if="others.length" class="soft" role="status" data-test="others">
      {{ others.map((p) => $t('{name} at {place}', { name: p.name, place: placeWords(p.place) })).join(' · ') }}
    </span>
    <slot />
    <PersonButton />
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
.verdict {
  display: flex;
  align-items: center;
  gap: 12px;
  font-size: 16px;
}
</style>
