<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, provide, ref } from 'vue'
import { stringify } from 'yaml'
import type { Schemas } from '@/api/client'
import { calcOf, useCalculations } from '@/state/workshop'
import ActButton from '@/parts/ActButton.vue'
import PackValue from '../workshop/PackValue.vue'
import { packKey, usePackText } from '../workshop/packText'

/** What the law asks of one requirement, in the field's own form; or that it asks nothing. */
const props = defineProps<{ fact: Schemas['LawFact'] }>()
const emit = defineEmits<{ free: []; bound: [unknown] }>()
const calcs = useCalculations()
const field = computed(() =>
  calcOf(calcs.value, 'legal_class')
    ?.inputs.find((f) => f.name === 'packs')
    ?.fields?.find((f) => f.name === 'classes')
    ?.fields?.find((f) => f.name === props.fact.field),
)
const name = props.fact.field
const begin = props.fact.answer?.bound ?? props.fact.bound
const text = ref(stringify({ [name]: begin && typeof begin === 'object' ? without(begin as object) : (begin ?? null) }))
const pack = usePackText(text)
provide(packKey, { pack, wrong: ref({}) })
/** What is not said is left out, not null. */
function without(o: object) {
  return Object.fromEntries(Object.entries(o).filter(([, v]) => v !== null && v !== ''))
}
const only = computed(() => field.value?.kind === 'boolean')
function send() {
  const v = only.value ? true : pack.get([name])
  emit('bound', v && typeof v === 'object' ? without(v) : v)
}
</script>

<template>
  <div v-if="field" class="bound" data-test="law-form">
    <div v-if="field.kind === 'object'" class="fields">
      <PackValue v-for="g in field.fields" :key="g.name" :f="g" :way="[name, g.name]" />
    </div>
    <PackValue v-else-if="field.kind === 'string'" :f="field" :way="[name]" />
    <span class="acts">
      <ActButton variant="flat" data-test="law-bound" @click="send">{{
        only ? $t('The law asks it') : $t('The law asks this')
      }}</ActButton>
      <ActButton v-if="!fact.free" data-test="law-form-free" @click="emit('free')">{{
        $t('The law asks nothing of it')
      }}</ActButton>
    </span>
  </div>
</template>

<style scoped>
.bound {
  display: grid;
  gap: 10px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}
</style>
