<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useOutbox } from './state/outbox'
import { me, readSession, session, useSession, words } from './state/session'
import ReadNote from './parts/ReadNote.vue'
import DoorPage from './stations/people/DoorPage.vue'

useSession()
useOutbox()
const route = useRoute()
const client = useQueryClient()

/** Somebody has been in: what they had open stays behind the door when they are signed out. */
const entered = ref(false)
watch(me, (now, before) => {
  entered.value ||= now !== null
  if (now && now.id !== before?.id) void client.invalidateQueries()
})
const problem = ref('')
async function ask() {
  try {
    await readSession()
  } catch (e) {
    problem.value = words(e)
    setTimeout(ask, 2000)
  }
}
onMounted(ask)
</script>

<template>
  <div class="app">
    <div v-if="entered" :inert="!me">
      <RouterView :key="String(route.params.id ?? '')" />
      <ReadNote />
    </div>
    <div v-if="!me" :class="{ over: entered }">
      <DoorPage :over="entered && session !== null" :problem="problem" />
    </div>
  </div>
</template>

<style scoped>
.over {
  position: fixed;
  inset: 0;
  z-index: 3000;
  overflow: auto;
}
</style>
