<script setup lang="ts">
import { computed } from 'vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { without } from '@/lib/sheet'
import SheetField from '@/parts/SheetField.vue'

/** Makeshifts with what ends them, and limits that live in words. */
const { id, view, set, locked } = useInspection()
const makeshifts = computed(() => view.value?.sheet.makeshifts ?? [])
const limits = computed(() => view.value?.sheet.word_limits ?? [])
const what = useDraft(() => `${id}:makeshift`)
const words = useDraft(() => `${id}:word-limit`)
async function addMakeshift() {
  if (!what.value.trim()) return
  const item = { what: what.value.trim() }
  what.value = ''
  await set(`makeshifts.${makeshifts.value.length}`, item)
}
async function addLimit() {
  if (!words.value.trim()) return
  const item = { words: words.value.trim() }
  words.value = ''
  await set(`word_limits.${limits.value.length}`, item)
}
</script>

<template>
  <section class="panel">
    <header>
      <h2>Makeshifts</h2>
      <span class="small"
        >taped pack, loose bracket, film over a joint; one that matters for safety holds the gate</span
      >
    </header>
    <ul class="rows">
      <li v-for="(m, i) in makeshifts" :key="i">
        <b>{{ m.what }}</b>
        <div class="fields">
          <SheetField :path="`makeshifts.${i}.ends`" />
          <SheetField :path="`makeshifts.${i}.safety`" />
          <SheetField :path="`makeshifts.${i}.ended`" />
        </div>
        <button v-if="!locked" type="button" class="plain" @click="set('makeshifts', without(makeshifts, i))">
          Take it off the list
        </button>
      </li>
    </ul>
    <form v-if="!locked" class="add" @submit.prevent="addMakeshift">
      <label class="field"><span>Another makeshift</span><input v-model="what" data-test="makeshift" /></label>
      <VBtn type="submit" :disabled="!what.trim()">Put it on the list</VBtn>
    </form>
  </section>
  <section class="panel">
    <header>
      <h2>Limits by word</h2>
      <span class="small">“never first gear”: held by a stop, a setting or a label, or it is no limit</span>
    </header>
    <ul class="rows">
      <li v-for="(l, i) in limits" :key="i">
        <b>“{{ l.words }}”</b>
        <SheetField :path="`word_limits.${i}.held_by`" />
        <button v-if="!locked" type="button" class="plain" @click="set('word_limits', without(limits, i))">
          Take it off the list
        </button>
      </li>
    </ul>
    <form v-if="!locked" class="add" @submit.prevent="addLimit">
      <label class="field"><span>Another limit</span><input v-model="words" data-test="word-limit" /></label>
      <VBtn type="submit" :disabled="!words.trim()">Put it on the list</VBtn>
    </form>
  </section>
</template>

<style scoped>
.add {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px;
  align-items: end;
  margin-top: 8px;
}
</style>
