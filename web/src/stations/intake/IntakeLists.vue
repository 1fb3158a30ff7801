<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import RemoveThis from '@/parts/RemoveThis.vue'
import { computed } from 'vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import SheetField from '@/parts/SheetField.vue'

/** Makeshifts with what ends them, and limits that live in words. */
const { id, view, add, locked, problem } = useInspection()
const makeshifts = computed(() => view.value?.sheet.makeshifts ?? [])
const lights = computed(() => view.value?.sheet.lights ?? [])
const held = computed(() => view.value?.sheet.restrictions ?? [])
const motors = computed(() => view.value?.sheet.drives ?? [])
const limits = computed(() => view.value?.sheet.word_limits ?? [])
const what = useDraft(() => `${id}:makeshift`)
const words = useDraft(() => `${id}:word-limit`)
async function addMakeshift() {
  if (!what.value.trim()) return
  const item = { what: what.value.trim() }
  what.value = ''
  if (!(await add('makeshifts', item)) && problem.value) what.value = item.what
}
async function addLimit() {
  if (!words.value.trim()) return
  const item = { words: words.value.trim() }
  words.value = ''
  if (!(await add('word_limits', item)) && problem.value) words.value = item.words
}
</script>

<template>
  <section class="panel">
    <header>
      <h2>{{ $t('Makeshifts') }}</h2>
      <span class="small">{{
        $t('taped pack, loose bracket, film over a joint; one that matters for safety holds the gate')
      }}</span>
    </header>
    <ul class="rows">
      <li v-for="(m, i) in makeshifts" :key="i">
        <b>{{ m.what }}</b>
        <div class="fields">
          <SheetField :path="`makeshifts.${i}.ends`" />
          <SheetField :path="`makeshifts.${i}.holds`" />
          <SheetField :path="`makeshifts.${i}.safety`" />
          <SheetField :path="`makeshifts.${i}.ended`" />
        </div>
        <RemoveThis list="makeshifts" :index="i" :what="`“${m.what}”`" />
      </li>
    </ul>
    <form v-if="!locked" class="add" @submit.prevent="addMakeshift">
      <label class="field"
        ><span>{{ $t('Another makeshift') }}</span
        ><input v-model="what" data-test="makeshift"
      /></label>
      <ActButton type="submit" :disabled="!what.trim()">{{ $t('Add to the list') }}</ActButton>
    </form>
  </section>
  <section class="panel">
    <header>
      <h2>{{ $t('Lights') }}</h2>
      <span class="small">{{ $t('those fed by a pack or a controller; lamps with their own cell do not count') }}</span>
    </header>
    <ul class="rows">
      <li v-for="i in lights.keys()" :key="i">
        <b>{{ $t('Light {n}', { n: i + 1 }) }}</b>
        <div class="fields">
          <SheetField :path="`lights.${i}.place`" />
          <SheetField :path="`lights.${i}.w`" />
          <SheetField :path="`lights.${i}.v`" />
        </div>
        <RemoveThis list="lights" :index="i" :what="$t('light {n}', { n: i + 1 })" />
      </li>
    </ul>
    <p v-if="!locked" class="acts">
      <ActButton data-test="light-front" @click="add('lights', { place: 'front' })">{{
        $t('Add front light')
      }}</ActButton>
      <ActButton data-test="light-rear" @click="add('lights', { place: 'rear' })">{{ $t('Add rear light') }}</ActButton>
    </p>
  </section>
  <section class="panel" data-test="restrictions">
    <header>
      <h2>{{ $t('Power or speed limited') }}</h2>
      <span class="small">{{
        $t(
          "a loop wire, a setting, a plug: it counts once it is proven, out of the rider's reach, and fails to the lower limit",
        )
      }}</span>
    </header>
    <ul class="rows">
      <li v-for="(r, i) in held" :key="i">
        <b>{{ $t('{of} limit', { of: r.of }) }}</b>
        <div class="fields">
          <SheetField v-if="motors.length > 1" :path="`restrictions.${i}.drive`" />
          <SheetField v-for="f in ['how', 'cycle', 'kept', 'fails']" :key="f" :path="`restrictions.${i}.${f}`" />
        </div>
        <RemoveThis list="restrictions" :index="i" :what="$t('the {of} limit', { of: r.of })" />
      </li>
    </ul>
    <p v-if="!locked" class="acts">
      <ActButton
        v-for="of in ['power', 'speed', 'throttle']"
        :key="of"
        :data-test="`hold-${of}`"
        @click="add('restrictions', { of })"
        >{{ $t('Add a {of} limit', { of }) }}</ActButton
      >
    </p>
  </section>
  <section class="panel">
    <header>
      <h2>{{ $t('Verbal limits') }}</h2>
      <span class="small">{{ $t('“never first gear”: a limit only if a stop, a setting or a label holds it') }}</span>
    </header>
    <ul class="rows">
      <li v-for="(l, i) in limits" :key="i">
        <b>“{{ l.words }}”</b>
        <SheetField :path="`word_limits.${i}.held_by`" />
        <RemoveThis list="word_limits" :index="i" :what="`“${l.words}”`" />
      </li>
    </ul>
    <form v-if="!locked" class="add" @submit.prevent="addLimit">
      <label class="field"
        ><span>{{ $t('Another limit') }}</span
        ><input v-model="words" data-test="word-limit"
      /></label>
      <ActButton type="submit" :disabled="!words.trim()">{{ $t('Add to the list') }}</ActButton>
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
