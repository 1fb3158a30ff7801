<script lang="ts">
import { defineAsyncComponent, getCurrentInstance, type App, type Component } from 'vue'

const page: { app?: App; loading?: Promise<Component> } = {}
/** Fetches what dialogs are made of, once. */
const load = () => (page.loading ??= import('@/app/overlay').then((m) => m.overlay(page.app!)))
const Dialog = defineAsyncComponent(load)
</script>

<script setup lang="ts">
import { ref, watch } from 'vue'

/** A dialog over the page; nothing of it is there before it is first opened. */
defineOptions({ inheritAttrs: false })
const open = defineModel<boolean>({ required: true })
page.app = getCurrentInstance()!.appContext.app
const wanted = ref(open.value)
watch(open, (o) => (wanted.value ||= o))
// Once there is nothing else to do, so that the first one opens at once, and without the server too.
setTimeout(() => void load().catch(() => (page.loading = undefined)), 6000)
</script>

<template>
  <Dialog v-if="wanted" v-model="open" v-bind="$attrs"><slot /></Dialog>
</template>
