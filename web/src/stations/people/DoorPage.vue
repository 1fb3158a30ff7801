<script setup lang="ts">
import { session, shade } from '@/state/session'
import GateMark from '@/parts/GateMark.vue'
import SetUp from './SetUp.vue'
import SignIn from './SignIn.vue'

/** What whoever is not signed in sees. `over`: work is open behind it and stays as it is. */
defineProps<{ over?: boolean; problem?: string }>()
</script>

<template>
  <div class="door">
    <header class="mast">
      <h1>{{ $t('Jade Gate') }}</h1>
      <span>{{ session?.workshop.name }}</span>
      <span class="gap" />
      <button type="button" class="plain" @click="shade = shade === 'dark' ? 'light' : 'dark'">
        {{ shade === 'dark' ? $t('Light paper') : $t('Dark workshop') }}
      </button>
    </header>
    <main>
      <section class="panel" aria-labelledby="door">
        <GateMark :state="session?.set_up ? 'not_begun' : 'held'" :size="84" />
        <h2 id="door">
          {{ session?.set_up ? $t('A new workshop') : over ? $t('Signed out') : $t('Who is working?') }}
        </h2>
        <p v-if="over">{{ $t('You are signed out. What you typed is kept; sign in to go on.') }}</p>
        <p v-if="!session" class="small" role="status">{{ problem || $t('Connecting…') }}</p>
        <SetUp v-else-if="session.set_up" />
        <SignIn v-else />
      </section>
    </main>
  </div>
</template>

<style scoped>
.door {
  min-height: 100vh;
  background: var(--paper);
}
.gap {
  flex: 1;
}
main {
  display: grid;
  place-items: start center;
  padding: 7vh 16px 24px;
}
.panel {
  width: min(460px, 100%);
  padding: 26px 30px 30px;
  display: grid;
  gap: 14px;
}
h2 {
  font-size: 26px;
}
</style>
