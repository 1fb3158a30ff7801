<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { ref } from 'vue'
import { setUp, words } from '@/state/session'
import StateNote from '@/parts/StateNote.vue'

/** The first start: how the workshop is called, and who keeps it. */
const workshop = ref('')
const place = ref('')
const name = ref('')
const password = ref('')
const again = ref('')
const problem = ref('')
async function begin() {
  problem.value = ''
  if (password.value !== again.value) {
    problem.value = $t('The two passwords are not the same: type them again.')
    return
  }
  try {
    await setUp({
      workshop: { name: workshop.value, place: place.value },
      name: name.value,
      password: password.value,
    })
  } catch (e) {
    problem.value = words(e)
  }
}
</script>

<template>
  <form @submit.prevent="begin">
    <p>
      {{ $t('Nobody is set up here yet. Name the workshop, and yourself as its first lead; you can add the others.') }}
    </p>
    <label class="field"
      ><span>{{ $t('Workshop') }}</span
      ><input v-model="workshop" v-focus data-test="setup-workshop"
    /></label>
    <label class="field"
      ><span>{{ $t('Place shown on its reports') }}</span
      ><input v-model="place" data-test="setup-place"
    /></label>
    <label class="field"
      ><span>{{ $t('Your name') }}</span
      ><input v-model="name" autocomplete="username" data-test="setup-name"
    /></label>
    <label class="field"
      ><span>{{ $t('Password, at least ten characters: a few words do') }}</span
      ><input v-model="password" type="password" autocomplete="new-password" data-test="setup-password"
    /></label>
    <label class="field"
      ><span>{{ $t('Repeat the password') }}</span
      ><input v-model="again" type="password" autocomplete="new-password" data-test="setup-again"
    /></label>
    <ActButton type="submit" variant="flat" data-test="setup-ok">{{ $t('Start') }}</ActButton>
    <StateNote :error="problem" data-test="setup-problem" />
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 12px;
}
</style>
