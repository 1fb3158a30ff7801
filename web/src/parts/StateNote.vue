<script setup lang="ts">
/** What went wrong, that something is on its way, or that there is nothing: said in one way everywhere. */
defineProps<{ error?: string | Error | null; loading?: string | false; empty?: string | false }>()
</script>

<template>
  <p v-if="error" class="stop" role="alert">{{ typeof error === 'string' ? error : error.message }}</p>
  <p v-else-if="loading" class="small" role="status">{{ loading }}</p>
  <p v-else-if="empty" class="small">{{ empty }}</p>
</template>
