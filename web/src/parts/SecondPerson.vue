<script setup lang="ts">
import { term } from '@/lib/words'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { who } from '@/state/session'
import { useWorkshop } from '@/state/workshop'

/** Another person stands by what is about to be said: named, and known by their own password or PIN at this tablet. */
const proof = defineModel<Schemas['Proof'] | undefined>({ required: true })
defineProps<{ why: string }>()
const { workshop } = useWorkshop()
const others = computed(
  () =>
    workshop.value?.people.filter((p) => p.name !== who.value && !p.left && ['lead', 'inspector'].includes(p.role)) ??
    [],
)
const person = computed({
  get: () => proof.value?.person ?? '',
  set: (p) => (proof.value = p ? { person: p } : undefined),
})
const secret = computed({
  get: () => proof.value?.pin ?? proof.value?.password ?? '',
  // No password is that short or of digits alone: what is, is meant as a PIN.
  set: (s) => (proof.value = { person: person.value, ...(/^\d{4,8}$/.test(s) ? { pin: s } : { password: s }) }),
})
</script>

<template>
  <label class="field second"
    ><span>{{ why }}</span>
    <select v-model="person" data-test="second">
      <option value="">{{ $t('nobody else looked') }}</option>
      <option v-for="p in others" :key="p.id" :value="p.id">{{ p.name }}, {{ term(p.role) }}</option>
    </select></label
  >
  <label v-if="person" class="field second"
    ><span>{{ $t('Their password, or PIN at this tablet') }}</span
    ><input v-model="secret" type="password" autocomplete="off" data-test="second-secret"
  /></label>
</template>
