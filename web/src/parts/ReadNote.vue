<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { useIsFetching } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { readAgain, unread } from '@/state/reading'

/** Says on any page that something of it is still on its way, or could not be read. */
const fetching = useIsFetching()
const slow = refDebounced(
  computed(() => fetching.value > 0),
  600,
)
const why = computed(() => [...new Set(unread.value.values())])
</script>

<template>
  <div v-if="why.length" class="halt note" role="alert" data-test="unread">
    <span>{{ $t('Part of this page could not be loaded: {why}', { why: why.join(' · ') }) }}</span>
    <ActButton @click="readAgain">{{ $t('Try again') }}</ActButton>
  </div>
  <p v-else-if="slow && fetching" class="note small" role="status">{{ $t('Loading…') }}</p>
</template>

<style scoped>
.note {
  position: fixed;
  z-index: 30;
  right: 16px;
  bottom: 12px;
  max-width: min(620px, calc(100vw - 32px));
  display: flex;
  gap: 14px;
  align-items: center;
  border: 1px solid var(--line);
  padding: 6px 12px;
  background: var(--panel);
}
</style>
