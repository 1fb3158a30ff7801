<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { readSession, session, words } from '@/state/session'
import StateNote from '@/parts/StateNote.vue'

/** One-time codes beside the password: an app reads the secret, a first code proves that it did. */
const emit = defineEmits<{ done: [] }>()
const password = ref('')
const code = ref('')
const secret = ref<Schemas['Codes'] | null>(null)
const problem = ref('')
async function attempt(what: () => Promise<unknown>) {
  problem.value = ''
  try {
    await what()
    return true
  } catch (e) {
    problem.value = words(e)
    return false
  }
}
const begin = () =>
  attempt(async () => {
    secret.value = await take(api.POST('/api/session/codes', { body: { password: password.value } }))
  })
async function finish(what: () => Promise<unknown>) {
  if (await attempt(what)) {
    await readSession()
    emit('done')
  }
}
const confirm = () =>
  finish(() => take(api.PUT('/api/session/codes', { body: { code: code.value.replaceAll(' ', '') } })))
const end = () =>
  finish(() =>
    take(
      api.POST('/api/session/codes/end', {
        body: { password: password.value, code: code.value.replaceAll(' ', '') },
      }),
    ),
  )
</script>

<template>
  <form v-if="!secret" @submit.prevent="session?.codes ? end() : begin()">
    <label class="field"
      ><span>{{ $t('Your password') }}</span
      ><input v-model="password" type="password" autocomplete="current-password"
    /></label>
    <label v-if="session?.codes" class="field"
      ><span>{{ $t('Code from the app') }}</span
      ><input v-model="code" inputmode="numeric" autocomplete="one-time-code"
    /></label>
    <ActButton type="submit" variant="flat">{{ session?.codes ? $t('Ask no more') : $t('Go on') }}</ActButton>
    <StateNote :error="problem" />
  </form>
  <form v-else @submit.prevent="confirm">
    <p>{{ $t('Scan this with an authenticator app, or type the secret into it.') }}</p>
    <img
      :src="`data:image/png;base64,${secret.qr}`"
      :alt="$t('the secret, for an app to read')"
      width="240"
      height="240"
    />
    <p class="num">{{ secret.secret.replace(/(.{4})/g, '$1 ') }}</p>
    <label class="field"
      ><span>{{ $t('The code it shows now') }}</span
      ><input v-model="code" inputmode="numeric" autocomplete="one-time-code"
    /></label>
    <ActButton type="submit" variant="flat">{{ $t('Turn codes on') }}</ActButton>
    <StateNote :error="problem" />
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  justify-items: start;
  width: 100%;
}
.field {
  width: 100%;
}
</style>
