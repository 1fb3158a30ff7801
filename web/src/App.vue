<script setup lang="ts">
import { watch } from 'vue'
import { useTheme } from 'vuetify'
import { dark } from './app/session'

const theme = useTheme()
watch(dark, (d) => theme.change(d ? 'dark' : 'light'), { immediate: true })
</script>

<template>
  <VApp>
    <RouterView />
  </VApp>
</template>
