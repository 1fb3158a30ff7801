<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import { useInspection } from '@/state/inspection'
import { picture, thumbnail, usePhotos } from '@/state/photos'
import { useWorkshop } from '@/state/workshop'
import StateNote from '@/parts/StateNote.vue'

/** Photos of the vehicle as it came: dropped, chosen or taken. */
const { view, locked } = useInspection()
const { workshop } = useWorkshop()
const { add, busy, problem } = usePhotos()
/** What the next photo shows: the first view that is not there yet, until another is named. */
const named = ref('')
const shows = computed({
  get: () =>
    named.value ||
    (workshop.value?.photo_views.find(
      (v) => !whole.value.some((p) => p.what.view === v) && v !== 'label' && v !== 'detail',
    ) ??
      'detail'),
  set: (v) => (named.value = v),
})
const over = ref(false)
const names: Record<string, string> = {
  right: $t('right, the drive side'),
  label: $t('a label'),
  detail: $t('a detail'),
}
/** The vehicle as it came. What shows a label or a detail stands at its field or check. */
const whole = computed(
  () => view.value?.photos.filter((p) => p.what.view !== 'label' && p.what.view !== 'detail') ?? [],
)
const others = computed(() => (view.value?.photos.length ?? 0) - whole.value.length)
function take(files: FileList | null | undefined) {
  void add([...(files ?? [])], { check: 'intake.identity', view: shows.value })
  named.value = '' // at once: a name chosen while these are being stored is the next photo's
}
function chosen(e: Event) {
  const input = e.target as HTMLInputElement
  take(input.files)
  input.value = ''
}
</script>

<template>
  <section class="panel" data-test="photos">
    <header>
      <h2>{{ $t('Photos') }}</h2>
      <span class="small">{{ $t('location and owner are removed from the file; at most 20 MB each') }}</span>
    </header>
    <div v-if="whole.length" class="strip">
      <figure v-for="p in whole" :key="p.id">
        <a :href="picture(p.what.sha256)" target="_blank" rel="noopener">
          <img
            :src="thumbnail(p.what.sha256)"
            :alt="$t('{what} of the vehicle, by {by}', { what: p.what.view ?? $t('photo'), by: p.by })"
          />
        </a>
        <figcaption class="small">{{ term(p.what.view ?? '') }}</figcaption>
      </figure>
    </div>
    <p v-if="others" class="small">
      {{ $t('{others} more of labels and details, at their fields and checks.', { others }) }}
    </p>
    <div
      v-if="!locked"
      :class="['drop', { over }]"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="((over = false), take($event.dataTransfer?.files))"
    >
      <label class="field">
        <span>{{ $t('It shows') }}</span>
        <select v-model="shows" data-test="photo-shows">
          <option v-for="v in workshop?.photo_views" :key="v" :value="v">{{ names[v] ?? term(v) }}</option>
        </select>
      </label>
      <label class="file">
        <input type="file" accept="image/*" capture="environment" multiple data-test="photo-file" @change="chosen" />
        <span>{{ busy ? $t('Storing {busy}…', { busy }) : $t('Take or choose a photo, or drop it here') }}</span>
      </label>
    </div>
    <StateNote :error="problem" />
  </section>
</template>

<style scoped>
.strip {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 10px;
}
img {
  height: 96px;
  display: block;
  border: 1px solid var(--line);
}
.drop {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 22px;
  align-items: end;
  border: 1px dashed var(--soft);
  border-radius: 3px;
  padding: 8px 12px;
}
.over {
  background: var(--jade-pale);
}
</style>
