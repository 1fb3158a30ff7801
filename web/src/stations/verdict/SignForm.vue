<script setup lang="ts">
import { $t } from '@/lib/say'
import { ref } from 'vue'
import ActButton from '@/parts/ActButton.vue'
import StateNote from '@/parts/StateNote.vue'
import { newId } from '@/state/outbox'
import { useInspection } from '@/state/inspection'
import { me, session } from '@/state/session'
import { verdictWord } from '@/lib/words'

/** The signature, proven by a password. */
const { evaluation, sayProven, locked } = useInspection()
const sure = ref(false)
const password = ref('')
const code = ref('')
const unsigned = ref('')
/** A try that got no answer may have arrived: the next one is the same entry. */
let signature = newId()
async function sign() {
  unsigned.value = await sayProven(
    'sign',
    { verdict: evaluation.value!.verdict },
    { password: password.value, ...(code.value ? { code: code.value.replaceAll(' ', '') } : {}) },
    signature,
  )
  password.value = code.value = ''
  if (unsigned.value) return
  sure.value = false
  signature = newId()
}
</script>

<template>
  <section v-if="evaluation" class="panel">
    <h2>{{ $t('Sign') }}</h2>
    <p>
      {{
        $t(
          'As {name}, {role}, for what was seen and measured today with the listed instruments. It is no type approval; local law and the authority decide.',
          { name: me?.name, role: me?.role },
        )
      }}
    </p>
    <form class="signing" @submit.prevent="sign">
      <label class="sure"
        ><input v-model="sure" type="checkbox" data-test="sure" />
        {{ $t('I have read the verdict and the findings') }}</label
      >
      <label class="field"
        ><span>{{
          $t('Your password{session}', {
            session: session?.demo ? $t(': “{demo}” in this demo', { demo: session.demo }) : '',
          })
        }}</span
        ><input v-model="password" type="password" autocomplete="current-password" data-test="sign-password"
      /></label>
      <label v-if="session?.codes" class="field"
        ><span>{{ $t('Code from the app') }}</span
        ><input v-model="code" inputmode="numeric" autocomplete="one-time-code"
      /></label>
      <ActButton block variant="flat" type="submit" :disabled="!sure || !password || locked" data-test="sign">{{
        $t('Sign “{verdictWord}”', { verdictWord: verdictWord[evaluation.verdict] })
      }}</ActButton>
      <StateNote :error="unsigned" data-test="unsigned" />
    </form>
    <p class="small">{{ $t('Signing locks this inspection. A further visit is a new one.') }}</p>
  </section>
</template>

<style scoped>
.signing {
  display: grid;
  gap: 10px;
  margin: 8px 0;
}
.sure {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}
.sure input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
</style>
