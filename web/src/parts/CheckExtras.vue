<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { picture, thumbnail, usePhotos } from '@/state/photos'
import { clock } from '@/lib/words'
import StateNote from './StateNote.vue'

/** Notes and photos on a check. */
const props = defineProps<{ check: string }>()
const { id, view, say, locked, problem: refused } = useInspection()
const { add, busy, problem } = usePhotos()
const photos = computed(() => view.value?.photos.filter((p) => p.what.check === props.check) ?? [])
const notes = computed(() => view.value?.notes.filter((n) => n.what.check === props.check) ?? [])
const writing = ref(false)
const text = useDraft(() => `${id}:note:${props.check}`)
async function write() {
  if (!text.value.trim()) return
  const note = text.value.trim()
  text.value = ''
  writing.value = false
  if ((await say('note', { check: props.check, text: note })) || !refused.value) return
  text.value = note // refused: it comes back to its field, with the reason above
  writing.value = true
}
function taken(e: Event) {
  const input = e.target as HTMLInputElement
  void add([...(input.files ?? [])], { check: props.check, view: 'detail' })
  input.value = ''
}
</script>

<template>
  <div class="extras">
    <p v-for="n in notes" :key="n.id" class="small">“{{ n.what.text }}” {{ n.by }}, {{ clock(n.at) }}</p>
    <div v-if="photos.length" class="strip">
      <a v-for="p in photos" :key="p.id" :href="picture(p.what.sha256)" target="_blank" rel="noopener">
        <img
          :src="thumbnail(p.what.sha256)"
          :alt="$t('{view} {what}, by {by}', { view: p.what.view, what: p.what.caption ?? '', by: p.by })"
        />
      </a>
    </div>
    <div v-if="!locked" class="acts">
      <label class="file">
        <input
          type="file"
          accept="image/*"
          capture="environment"
          multiple
          :data-test="`photo-${check}`"
          @change="taken"
        />
        <span>{{ busy ? $t('Storing…') : $t('Photo') }}</span>
      </label>
      <button type="button" class="plain" :aria-expanded="writing" @click="writing = !writing">{{ $t('Note') }}</button>
    </div>
    <form v-if="writing" class="why" @submit.prevent="write">
      <label class="field"
        ><span>{{ $t('Note on this check') }}</span
        ><input v-model="text" :data-test="`note-${check}`"
      /></label>
      <ActButton type="submit">{{ $t('Save') }}</ActButton>
    </form>
    <StateNote :error="problem" />
  </div>
</template>

<style scoped>
.extras {
  display: grid;
  gap: 6px;
}
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
img {
  height: 72px;
  display: block;
  border: 1px solid var(--line);
}
.why {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  align-items: end;
}
</style>
