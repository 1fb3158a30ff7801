<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import type { ApiError, Schemas } from '@/api/client'
import { session, signIn, signInByPin, visit } from '@/state/session'
import StateNote from '@/parts/StateNote.vue'

/** Says who one is: by the PIN of this tablet, by name and password, or, in a demo, by one tap. */
const emit = defineEmits<{ done: [] }>()
const demo = computed(() => Boolean(session.value?.demo))
const order = ['lead', 'inspector', 'helper', 'guest']
const here = computed(() =>
  [...(session.value?.here ?? [])]
    .filter((p) => !p.left && p.id !== session.value?.person?.id)
    .sort((a, b) => order.indexOf(a.role) - order.indexOf(b.role)),
)
const tapped = ref<Schemas['Person'] | null>(null)
const pin = ref('')
const name = ref('')
const password = ref('')
const code = ref('')
const coded = ref(false)
const byName = ref(false)
const problem = ref('')
const busy = ref(false)

async function attempt(what: () => Promise<void>) {
  problem.value = ''
  busy.value = true
  try {
    await what()
    password.value = pin.value = code.value = ''
    tapped.value = null
    emit('done')
  } catch (e) {
    const x = e as ApiError
    coded.value = coded.value || x.problem?.type === 'code'
    problem.value = x.message
  } finally {
    busy.value = false
  }
}
function tap(p: Schemas['Person']) {
  if (demo.value) return void attempt(() => visit(p.id))
  tapped.value = p
  pin.value = problem.value = ''
}
const enter = () =>
  attempt(() =>
    signIn({
      name: name.value,
      password: password.value,
      ...(code.value ? { code: code.value.replaceAll(' ', '') } : {}),
    }),
  )
const doing: Record<string, string> = {
  lead: $t('keeps people and tools, judges findings, signs'),
  inspector: $t('inspects and signs'),
  helper: $t('enters readings, does not sign'),
  guest: $t('reads what was shared'),
}
</script>

<template>
  <div class="in">
    <template v-if="here.length && !tapped && !byName">
      <p v-if="demo">
        {{ $t('This is a demo with made-up people and vehicles. Look around as one of them; their password is') }}
        <span class="num" data-test="demo-password">{{ session?.demo }}</span>.
      </p>
      <ul class="people">
        <li v-for="p in here" :key="p.id">
          <button type="button" class="person" :data-person="p.id" :disabled="busy" @click="tap(p)">
            <b>{{ p.name }}</b> <span class="small">{{ term(p.role) }}: {{ doing[p.role] }}</span>
          </button>
        </li>
      </ul>
      <button type="button" class="plain" data-test="by-name" @click="byName = true">{{ $t('Somebody else') }}</button>
    </template>
    <form v-else-if="tapped" @submit.prevent="attempt(() => signInByPin(tapped!.id, pin))">
      <label class="field"
        ><span>{{ $t('PIN of {name} at this tablet', { name: tapped.name }) }}</span
        ><input
          v-model="pin"
          v-focus
          type="password"
          inputmode="numeric"
          autocomplete="off"
          maxlength="8"
          data-test="pin"
      /></label>
      <div class="two">
        <ActButton type="submit" variant="flat" :disabled="busy" data-test="pin-ok">{{ $t('Sign in') }}</ActButton>
        <ActButton @click="tapped = null">{{ $t('Somebody else') }}</ActButton>
      </div>
    </form>
    <form v-else @submit.prevent="enter">
      <label class="field"
        ><span>{{ $t('Name') }}</span
        ><input v-model="name" v-focus autocomplete="username" data-test="name"
      /></label>
      <label class="field"
        ><span>{{ $t('Password') }}</span
        ><input v-model="password" type="password" autocomplete="current-password" data-test="password"
      /></label>
      <label v-if="coded" class="field"
        ><span>{{ $t('Code from the app') }}</span
        ><input v-model="code" inputmode="numeric" autocomplete="one-time-code" data-test="code"
      /></label>
      <div class="two">
        <ActButton type="submit" variant="flat" :disabled="busy || !name || !password" data-test="sign-in">{{
          $t('Sign in')
        }}</ActButton>
        <ActButton v-if="here.length" @click="byName = false">{{ $t('Back') }}</ActButton>
      </div>
    </form>
    <StateNote :error="problem" data-test="sign-in-problem" />
  </div>
</template>

<style scoped>
.in,
form {
  display: grid;
  gap: 12px;
}
.people {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.person {
  width: 100%;
  min-height: 56px;
  text-align: left;
  padding: 8px 14px;
  border: 1px solid var(--soft);
  border-radius: 3px;
  background: var(--field);
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.person b {
  display: block;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
</style>
