<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import AppDialog from '@/parts/AppDialog.vue'
import ActButton from '@/parts/ActButton.vue'
import { ref } from 'vue'
import { api, take } from '@/api/client'
import { ofOthers } from '@/state/outbox'
import { me, readSession, session, signOut, words } from '@/state/session'
import StateNote from '@/parts/StateNote.vue'
import OwnCodes from './OwnCodes.vue'
import SignIn from './SignIn.vue'

/** Who is working here: another person takes over, or one changes what one is known by. */
const open = defineModel<boolean>({ required: true })
const part = ref<'' | 'pin' | 'password' | 'codes'>('')
const present = ref('')
const code = ref('')
const fresh = ref('')
const problem = ref('')
const said = ref('')
const empty = <T extends { error?: unknown; response: Response }>(r: T) => ({
  ...r,
  data: r.response.ok ? true : undefined,
})
const proof = () => ({ password: present.value, ...(code.value ? { code: code.value.replaceAll(' ', '') } : {}) })
async function attempt(what: () => Promise<unknown>, done: string) {
  problem.value = said.value = ''
  try {
    await what()
    said.value = done
    part.value = ''
    present.value = fresh.value = code.value = ''
    await readSession()
  } catch (e) {
    problem.value = words(e)
  }
}
const setPin = () =>
  attempt(
    () => take(api.PUT('/api/session/pin', { body: { ...proof(), pin: fresh.value } }).then(empty)),
    $t('The PIN is set. It is good at this tablet alone; a signature still asks for your password.'),
  )
const forgetPin = () => attempt(() => take(api.DELETE('/api/session/pin').then(empty)), $t('The PIN is gone.'))
const setPassword = () =>
  attempt(
    () => take(api.PUT('/api/session/password', { body: { ...proof(), new: fresh.value } })),
    $t('The password is changed; you are signed out everywhere else.'),
  )
</script>

<template>
  <AppDialog v-model="open" max-width="500" :aria-label="$t('Who is working')">
    <div class="sheet">
      <h2>{{ me?.name }}, {{ term(me?.role ?? '') }}</h2>
      <p v-if="session?.by_pin" class="small">
        {{ $t('Signed in by PIN or in a demo: signing asks for the password.') }}
      </p>
      <p v-if="ofOthers.length" class="caution" data-test="of-others">
        {{
          $t('{n} entries of {people} wait in this browser until they are signed in again.', {
            n: ofOthers.length,
            people: [...new Set(ofOthers.map((w) => w.by))].join(', '),
          })
        }}
      </p>
      <details class="take">
        <summary data-test="other-person">{{ $t('Another person takes over') }}</summary>
        <SignIn @done="open = false" />
      </details>
      <template v-if="me?.role !== 'guest'">
        <button type="button" class="plain" data-test="own-pin" @click="part = part === 'pin' ? '' : 'pin'">
          {{ session?.pin_here ? $t('Change the PIN of this tablet') : $t('Set a PIN for this tablet') }}
        </button>
        <form v-if="part === 'pin'" @submit.prevent="setPin">
          <label class="field"
            ><span>{{ $t('Your password') }}</span
            ><input v-model="present" type="password" autocomplete="current-password" data-test="own-present"
          /></label>
          <label v-if="session?.codes" class="field"
            ><span>{{ $t('Code from the app') }}</span
            ><input v-model="code" inputmode="numeric"
          /></label>
          <label class="field"
            ><span>{{ $t('PIN, four to eight digits') }}</span
            ><input v-model="fresh" type="password" inputmode="numeric" autocomplete="off" data-test="own-new"
          /></label>
          <ActButton type="submit" variant="flat" data-test="own-ok">{{ $t('Set the PIN') }}</ActButton>
          <ActButton v-if="session?.pin_here" variant="text" @click="forgetPin">{{ $t('Remove the PIN') }}</ActButton>
        </form>
      </template>
      <button type="button" class="plain" @click="part = part === 'password' ? '' : 'password'">
        {{ $t('Change your password') }}
      </button>
      <form v-if="part === 'password'" @submit.prevent="setPassword">
        <label class="field"
          ><span>{{ $t('Current password') }}</span
          ><input v-model="present" type="password" autocomplete="current-password"
        /></label>
        <label v-if="session?.codes" class="field"
          ><span>{{ $t('Code from the app') }}</span
          ><input v-model="code" inputmode="numeric"
        /></label>
        <label class="field"
          ><span>{{ $t('New password, at least ten characters') }}</span
          ><input v-model="fresh" type="password" autocomplete="new-password"
        /></label>
        <ActButton type="submit" variant="flat">{{ $t('Change the password') }}</ActButton>
      </form>
      <button type="button" class="plain" @click="part = part === 'codes' ? '' : 'codes'">
        {{ session?.codes ? $t('Turn codes off') : $t('Turn codes from an app on') }}
      </button>
      <OwnCodes v-if="part === 'codes'" @done="part = ''" />
      <p v-if="said" class="holds" role="status">{{ said }}</p>
      <StateNote :error="problem" />
      <div class="two">
        <ActButton data-test="sign-out" @click="signOut().then(() => (open = false))">{{ $t('Sign out') }}</ActButton>
        <ActButton @click="signOut(true).then(() => (open = false))">{{ $t('Sign out everywhere') }}</ActButton>
        <ActButton variant="flat" @click="open = false">{{ $t('Close') }}</ActButton>
      </div>
    </div>
  </AppDialog>
</template>

<style scoped>
.sheet,
form {
  display: grid;
  gap: 10px;
  justify-items: start;
}
form,
.take {
  width: 100%;
}
form .field {
  width: 100%;
}
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
.two {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-top: 6px;
}
</style>
