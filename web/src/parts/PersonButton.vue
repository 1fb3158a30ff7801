<script setup lang="ts">
import { ref } from 'vue'
import { me } from '@/state/session'
import PersonDialog from '@/stations/people/PersonDialog.vue'

/** Who is working, and the way to change it. */
const open = ref(false)
</script>

<template>
  <button type="button" class="plain who" data-test="who" aria-haspopup="dialog" @click="open = true">
    <span class="sr">{{ $t('Working:') + ' ' }}</span>{{ me?.name }}
  </button>
  <PersonDialog v-model="open" />
</template>

<style scoped>
.who {
  font-weight: 600;
  text-decoration-color: currentcolor;
}
</style>
