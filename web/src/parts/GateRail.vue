<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useInspection } from '@/state/inspection'
import { gatePlace } from '@/lib/places'
import type { Schemas } from '@/api/client'
import GateMark from './GateMark.vue'

const { id, evaluation } = useInspection()
const route = useRoute()

const here = computed(() => {
  switch (route.name) {
    case 'intake':
      return 1
    case 'axle':
    case 'mid':
      return 2
    case 'ledger':
      return 3
    case 'bench':
      return 6
    case 'verdict':
      return 9
  }
  return Number(route.params.gate ?? 0)
})

/** On a phone the rail lies along the top and is longer than the screen. */
const list = useTemplateRef('list')
watch(
  [here, () => Boolean(evaluation.value)],
  async () => {
    await nextTick()
    const at = list.value?.querySelector<HTMLElement>('.here')
    const rail = list.value?.parentElement
    if (at && rail && rail.scrollWidth > rail.clientWidth)
      rail.scrollTo({ left: at.offsetLeft - (rail.clientWidth - at.offsetWidth) / 2 })
  },
  { immediate: true },
)

function note(g: Schemas['GateState']): string {
  if (g.gate === 9) return ''
  if (g.locked) return $t('locked')
  if (g.total === 0) return $t('no checks')
  if (g.to_mend) return $t('{to_mend} to mend', { to_mend: g.to_mend })
  if (g.unsettled)
    return g.done ? $t('{unsettled} open', { unsettled: g.unsettled }) : $t('0 of {total}', { total: g.total })
  if (g.to_watch) return $t('{to_watch} to watch', { to_watch: g.to_watch })
  return $t('{done} of {total}', { done: g.done, total: g.total })
}

function mark(g: Schemas['GateState']): string {
  if (g.gate === 9) return evaluation.value?.verdict ?? 'not_begun'
  return g.locked ? 'not_begun' : g.state
}
</script>

<template>
  <nav class="rail" :aria-label="$t('The nine gates')">
    <RouterLink class="name" to="/" :title="$t('Day board (B)')">{{ $t('Jade Gate') }}</RouterLink>
    <ol ref="list">
      <li v-for="g in evaluation?.gates" :key="g.gate">
        <RouterLink
          :to="gatePlace(id, g.gate)"
          :class="{ here: g.gate === here }"
          :aria-current="g.gate === here ? 'page' : undefined"
        >
          <GateMark :state="mark(g)" :size="36" :on-pine="g.gate !== here" />
          <span class="gate">{{ g.name }}</span>
          <span class="note">{{ note(g) }}</span>
        </RouterLink>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.rail {
  background: var(--pine);
  color: var(--pine-ink);
  width: 116px;
  flex: none;
  display: flex;
  flex-direction: column;
  position: sticky;
  top: 0;
  height: 100vh;
  overflow-y: auto;
  scrollbar-width: thin;
}
.name {
  font-weight: 700;
  font-size: 16px;
  text-align: center;
  padding: 13px 0 8px;
  text-decoration: none;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0 0 12px;
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 2px;
}
li a {
  display: grid;
  justify-items: center;
  gap: 1px;
  padding: 7px 4px 6px;
  margin-left: 8px;
  min-height: 74px;
  border-radius: 12px 0 0 12px;
  text-decoration: none;
  font-size: 13.5px;
}
.gate {
  font-weight: 700;
}
.note {
  font-size: 12.5px;
  color: var(--pine-soft);
}
.here {
  background: var(--paper);
  color: var(--ink);
}
.here .note {
  color: var(--soft);
}
.rail :focus-visible {
  outline-color: var(--pine-ink);
  outline-offset: -3px;
}
@media (max-width: 760px) {
  .rail {
    width: 100%;
    height: auto;
    flex-direction: row;
    align-items: center;
    overflow-x: auto;
    z-index: 5;
  }
  .name {
    padding: 0 12px;
    white-space: nowrap;
  }
  ol {
    flex-direction: row;
    padding: 6px 8px 0 0;
  }
  li a {
    margin: 0;
    min-width: 84px;
    border-radius: 12px 12px 0 0;
  }
}
</style>
