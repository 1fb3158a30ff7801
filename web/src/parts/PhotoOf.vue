<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { picture, thumbnail, usePhotos } from '@/state/photos'
import StateNote from './StateNote.vue'

/** The photos of one thing on the sheet, and how another one is taken. */
const props = defineProps<{ path: string; caption: string }>()
const { view, locked } = useInspection()
const { add, busy, problem } = usePhotos()
const photos = computed(() => view.value?.photos.filter((p) => p.what.path === props.path) ?? [])
function taken(e: Event) {
  const input = e.target as HTMLInputElement
  void add([...(input.files ?? [])], { view: 'label', path: props.path, caption: props.caption })
  input.value = ''
}
</script>

<template>
  <div class="of">
    <a v-for="p in photos" :key="p.id" :href="picture(p.what.sha256)" target="_blank" rel="noopener">
      <img :src="thumbnail(p.what.sha256)" :alt="$t('{what}, by {by}', { what: caption, by: p.by })" height="48" />
    </a>
    <label v-if="!locked" class="file">
      <input type="file" accept="image/*" capture="environment" :data-photo-of="path" @change="taken" />
      <span>{{ busy ? $t('Storing…') : photos.length ? $t('Another photo') : $t('Photo of it') }}</span>
    </label>
    <StateNote :error="problem" />
  </div>
</template>

<style scoped>
.of {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
</style>
