<script setup lang="ts">
import { watch } from 'vue'
import { useTheme } from 'vuetify'
import { useOutbox } from './state/outbox'
import { dark } from './state/session'

useOutbox()
const theme = useTheme()
watch(dark, (d) => theme.change(d ? 'dark' : 'light'), { immediate: true })
</script>

<template>
  <VApp>
    <RouterView />
  </VApp>
</template>
