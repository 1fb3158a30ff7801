<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { words } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import StateNote from '@/parts/StateNote.vue'

/** Which guests may read this inspection: whoever rides it, owns it, or orders it. */
const { id } = useInspection()
const { workshop } = useWorkshop()
const client = useQueryClient()
const guests = computed(() => workshop.value?.people.filter((p) => p.role === 'guest' && !p.left) ?? [])
const path = { params: { path: { id } } }
const { data, error } = useQuery({
  queryKey: ['share', id],
  queryFn: () => take(api.GET('/api/inspections/{id}/share', path)),
})
const problem = ref('')
async function share(guest: string, on: boolean) {
  problem.value = ''
  const rest = data.value?.guests.filter((g) => g !== guest) ?? []
  try {
    await take(api.PUT('/api/inspections/{id}/share', { ...path, body: { guests: on ? [...rest, guest] : rest } }))
  } catch (e) {
    problem.value = words(e)
  }
  await client.invalidateQueries({ queryKey: ['share', id] })
}
</script>

<template>
  <section class="panel" data-test="share">
    <h2>{{ $t('Shared with') }}</h2>
    <StateNote
      :error="problem || error"
      :empty="!guests.length && $t('No guests. A lead can add one under Workshop.')"
    />
    <label v-for="g in guests" :key="g.id" class="guest"
      ><input
        type="checkbox"
        :checked="data?.guests.includes(g.id)"
        :data-guest="g.id"
        @change="share(g.id, ($event.target as HTMLInputElement).checked)"
      />
      {{ $t('{name} may read it', { name: g.name }) }}</label
    >
  </section>
</template>

<style scoped>
.guest {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}
input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
</style>
