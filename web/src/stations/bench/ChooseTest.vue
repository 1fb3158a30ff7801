<script setup lang="ts">
import { term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import { useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useInspection } from '@/state/inspection'
import StepList from './StepList.vue'
import { clampOn } from './words'

/** Which test is to run on the bench, what it needs first, and the word that it is safe to begin. */
const props = defineProps<{ tests: Schemas['BenchTest'][]; motors: string[]; barred: boolean }>()
const emit = defineEmits<{ start: [] }>()
const chosen = defineModel<string>('chosen', { required: true })
const motor = defineModel<string>('motor', { required: true })
const { id, view } = useInspection()
const test = computed(() => props.tests.find((t) => t.id === chosen.value))
const ready = ref(false)
/** Where the packs are. No plug is asked for while one is in. */
const packs = useLocalStorage<'in' | 'out'>(`jg-packs:${id}`, 'in')
const opensPlug = computed(() => test.value?.undoes?.includes('plug_opened') ?? false)
const waits = computed(() => opensPlug.value && packs.value === 'in')
function begin() {
  packs.value = 'in' // it is tried with the packs back in
  emit('start')
}
/** Which tests have a recording. */
const recorded = computed(() => new Set((view.value?.traces ?? []).map((t) => t.what.run?.test)))
</script>

<template>
  <form class="choose" @submit.prevent="begin">
    <ol class="tests" :aria-label="$t('Tests')">
      <li v-for="t in tests" :key="t.id">
        <label :class="{ on: t.id === chosen }">
          <input v-model="chosen" type="radio" name="test" :value="t.id" :data-test="`test-${t.id}`" />
          <span>{{ t.title }}</span>
          <b v-if="recorded.has(t.id)" class="small">{{ $t('on record') }}</b>
        </label>
      </li>
    </ol>
    <div class="about">
      <p v-if="test">{{ test.before }}</p>
      <fieldset v-if="opensPlug" class="packs">
        <legend>{{ $t('The packs are') }}</legend>
        <label v-for="w in ['in', 'out'] as const" :key="w">
          <input v-model="packs" type="radio" name="packs" :value="w" :data-test="`packs-${w}`" /> {{ term(w) }}
        </label>
      </fieldset>
      <p v-if="waits" class="caution" data-test="packs-first">
        {{ $t('Every pack comes out before a plug is opened, and goes in again before it is tried.') }}
      </p>
      <StepList
        v-if="test?.steps?.length && !waits"
        :steps="test.steps.map((s) => ({ ...s, done: false }))"
        :running="false"
      />
      <label v-if="motors.length > 1" class="field">
        <span>{{ $t('The clamp is on the lead of') }}</span>
        <select v-model="motor" data-test="live-motor">
          <option v-for="m in ['', ...motors]" :key="m" :value="m">{{ clampOn(m) }}</option>
        </select>
      </label>
      <p class="caution">
        {{
          $t(
            "Wheel up: stand rated, vehicle strapped, hands, hair and laces clear of spokes and chain; power only with the packs' plug in reach. Never reach for a spinning wheel. A motor that wants a rolling start is spun by hand first.",
          )
        }}
      </p>
      <div class="arm">
        <label class="tick">
          <input v-model="ready" type="checkbox" data-test="live-ready" :disabled="barred" />
          {{ $t('Strapped, clear, plug in reach') }}
        </label>
        <ActButton type="submit" variant="flat" :disabled="!ready || barred || waits" data-test="live-start">{{
          $t('Arm')
        }}</ActButton>
      </div>
    </div>
  </form>
</template>

<style scoped>
.choose {
  display: grid;
  grid-template-columns: minmax(230px, 5fr) 7fr;
  gap: 8px 22px;
}
@media (max-width: 700px) {
  .choose {
    grid-template-columns: minmax(0, 1fr);
  }
}
.tests {
  list-style: none;
  margin: 0;
  padding: 0;
}
.tests label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 36px;
  padding: 4px 8px;
  border-top: 1px solid var(--line);
  cursor: pointer;
}
.tests label span {
  flex: 1;
}
.tests input {
  appearance: none;
  width: 12px;
  height: 12px;
  border: 1.5px solid var(--soft);
  margin: 0;
  rotate: 45deg;
}
.tests .on input {
  background: var(--copper);
  border-color: var(--copper);
}
.tests .on {
  background: var(--paper);
  font-weight: 700;
}
.tests b {
  font-weight: 400;
}
.about {
  display: grid;
  gap: 10px;
  align-content: start;
}
.packs {
  display: flex;
  gap: 4px 18px;
  border: 0;
  margin: 0;
  padding: 0;
}
.packs label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}
.packs input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
.arm {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 18px;
  align-items: center;
}
.tick {
  min-height: 44px;
  display: flex;
  gap: 9px;
  align-items: center;
}
.tick input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
</style>
