<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { picture } from '@/state/photos'

/** A photo, where it was taken. */
defineProps<{ photo: Schemas['Photo']; by: string; n: number }>()
</script>

<template>
  <a
    :href="picture(photo.sha256)"
    target="_blank"
    rel="noopener"
    data-test="pin"
    :aria-label="$t('Photo {n}, {photo}, by {by}', { n, photo: photo.caption ?? '', by })"
  >
    <circle r="18" class="hit" />
    <path d="M-9 -6h4l2 -3h6l2 3h4v12h-18z" />
    <circle r="3.4" />
  </a>
</template>

<style scoped>
path,
circle:not(.hit) {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.hit {
  fill: transparent;
}
</style>
