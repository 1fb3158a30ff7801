<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, take, type Schemas } from '@/api/client'
import { may, me, readSession, words, workshopName } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import StateNote from '@/parts/StateNote.vue'

/** Who works here and as what. A lead takes people in and writes down who left; nobody is ever struck out. */
type Role = Schemas['Person']['role']
const roles: { role: Role; does: string }[] = [
  { role: 'lead', does: $t('lead: keeps people and tools, judges findings, signs') },
  { role: 'inspector', does: $t('inspector: inspects and signs') },
  { role: 'helper', does: $t('helper: enters, does not sign') },
  { role: 'guest', does: $t('guest: reads what was shared with them') },
]
const { workshop } = useWorkshop()
const client = useQueryClient()
const staff = computed(() =>
  [...(workshop.value?.people ?? [])].sort(
    (a, b) => Number(Boolean(a.left)) - Number(Boolean(b.left)) || a.name.localeCompare(b.name),
  ),
)
const changing = ref('')
const adding = ref(false)
const fresh = reactive({ name: '', role: 'inspector' as Role, password: '' })
const password = ref('')
const place = reactive({ open: false, name: '', place: '' })
const problem = ref('')
const said = ref('')
async function attempt(what: () => Promise<unknown>, done: string) {
  problem.value = said.value = ''
  try {
    await what()
    said.value = done
    changing.value = password.value = ''
    adding.value = place.open = false
    await client.invalidateQueries({ queryKey: ['workshop'] })
    await client.invalidateQueries({ queryKey: ['register-log'] })
  } catch (e) {
    problem.value = words(e)
  }
}
async function add() {
  await attempt(
    () => take(api.POST('/api/people', { body: { ...fresh } })),
    $t('{name} can sign in.', { name: fresh.name }),
  )
  if (!problem.value) Object.assign(fresh, { name: '', password: '' })
}
const change = (p: Schemas['Person'], role: Role, left: boolean) =>
  attempt(
    () => take(api.PUT('/api/people/{id}', { params: { path: { id: p.id } }, body: { role, left } })),
    left
      ? $t('{name} has left and cannot sign in.', { name: p.name })
      : $t('{name}: {role} from now on.', { name: p.name, role: term(role) }),
  )
const renew = (p: Schemas['Person']) =>
  attempt(
    () =>
      take(
        api
          .PUT('/api/people/{id}/password', { params: { path: { id: p.id } }, body: { password: password.value } })
          .then((r) => ({ ...r, data: r.response.ok ? true : undefined })),
      ),
    $t('{name} has a new password and is signed out everywhere.', { name: p.name }),
  )
function rename() {
  Object.assign(place, { open: true, ...workshopName.value })
}
const call = () =>
  attempt(async () => {
    await take(api.PUT('/api/workshop/name', { body: { name: place.name, place: place.place } }))
    await readSession()
  }, $t('The workshop has its new name.'))
</script>

<template>
  <section class="panel" data-test="people">
    <header>
      <h2>{{ $t('People of {name}', { name: workshopName.name }) }}</h2>
      <span v-if="may('lead')" class="acts">
        <button type="button" class="plain" @click="rename">{{ $t('Name and place') }}</button>
        <button type="button" class="plain" data-test="person-new" @click="adding = !adding">
          {{ $t('Add a person') }}
        </button>
      </span>
    </header>
    <form v-if="place.open" class="form" @submit.prevent="call">
      <label class="field"
        ><span>{{ $t('Workshop') }}</span
        ><input v-model="place.name"
      /></label>
      <label class="field"
        ><span>{{ $t('Place on new inspections') }}</span
        ><input v-model="place.place"
      /></label>
      <ActButton type="submit" variant="flat">{{ $t('Save') }}</ActButton>
    </form>
    <form v-if="adding" class="form" @submit.prevent="add">
      <label class="field"
        ><span>{{ $t('Name') }}</span
        ><input v-model="fresh.name" data-test="person-name"
      /></label>
      <label class="field"
        ><span>{{ $t('Role') }}</span>
        <select v-model="fresh.role" data-test="person-role">
          <option v-for="r in roles" :key="r.role" :value="r.role">{{ r.does }}</option>
        </select></label
      >
      <label class="field"
        ><span>{{ $t('First password, which they change') }}</span
        ><input v-model="fresh.password" type="password" autocomplete="new-password" data-test="person-password"
      /></label>
      <ActButton type="submit" variant="flat" data-test="person-ok">{{ $t('Add') }}</ActButton>
    </form>
    <p v-if="said" class="holds" role="status">{{ said }}</p>
    <StateNote :error="problem" data-test="people-problem" />
    <ul class="rows">
      <li v-for="p in staff" :key="p.id" :data-person-row="p.id">
        <div class="line">
          <b :class="{ small: p.left }">{{ p.name }}</b>
          <span class="small"
            >{{ p.left ? $t('left {left}', { left: p.left }) : term(p.role)
            }}{{ p.id === me?.id ? $t(', you') : '' }}</span
          >
          <button
            v-if="may('lead')"
            type="button"
            class="plain"
            :aria-expanded="changing === p.id"
            @click="changing = changing === p.id ? '' : p.id"
          >
            {{ $t('change') }}<span class="sr"> {{ p.name }}</span>
          </button>
        </div>
        <div v-if="changing === p.id" class="form">
          <label class="field"
            ><span>{{ $t('Role') }}</span>
            <select
              :value="p.role"
              @change="change(p, ($event.target as HTMLSelectElement).value as Role, Boolean(p.left))"
            >
              <option v-for="r in roles" :key="r.role" :value="r.role">{{ r.does }}</option>
            </select></label
          >
          <form class="renew" @submit.prevent="renew(p)">
            <label class="field"
              ><span>{{ $t('New password, if theirs is lost') }}</span
              ><input v-model="password" type="password" autocomplete="new-password"
            /></label>
            <ActButton type="submit" :disabled="!password">{{ $t('Set password') }}</ActButton>
          </form>
          <ActButton @click="change(p, p.role, !p.left)">{{ p.left ? $t('Is back') : $t('Has left') }}</ActButton>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.line {
  display: flex;
  gap: 10px;
  align-items: baseline;
}
.line .plain {
  margin-left: auto;
}
.form {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding-bottom: 12px;
}
.form .field {
  width: 100%;
}
.renew {
  display: flex;
  gap: 10px;
  align-items: end;
  width: 100%;
}
</style>
