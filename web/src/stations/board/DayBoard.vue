<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, take } from '@/api/client'
import { useBoard } from '@/state/board'
import { may, workshopName } from '@/state/session'
import { useTools } from '@/state/workshop'
import { useKeys } from '@/lib/keys'
import { date } from '@/lib/words'
import KeyHelp from '@/parts/KeyHelp.vue'
import PersonButton from '@/parts/PersonButton.vue'
import StateNote from '@/parts/StateNote.vue'
import BoardList from './BoardList.vue'
import OpenForm from './OpenForm.vue'

const router = useRouter()
const { tools, known: toolsKnown } = useTools()
const find = ref('')
const asked = refDebounced(find, 250)
const standing = useBoard('standing', asked, 25)
const signed = useBoard('signed', asked, 20)
const { lines: rechecks, known: rechecksKnown } = useBoard('due', ref(''), 12)
const due = computed(() => tools.value.filter((t) => t.lapsed || t.due_soon))
const { data: laws, isSuccess: lawsKnown } = useQuery({
  queryKey: ['laws-due'],
  queryFn: () => take(api.GET('/api/laws-due')),
  enabled: computed(() => may('helper')),
})
const { data: notices } = useQuery({
  queryKey: ['notices'],
  queryFn: () => take(api.GET('/api/notices')),
  enabled: computed(() => may('helper')),
})
/** What is due was read from the server, all of it: only then can there be nothing. */
const dueKnown = computed(() => rechecksKnown.value && (lawsKnown.value || !may('helper')) && toolsKnown.value)
const error = computed(() => (standing.error.value ?? signed.error.value)?.message)

const help = ref(false)
const opening = ref(false)
const field = useTemplateRef('field')
const keys = useKeys([
  { key: 'o', does: $t('open an inspection'), run: () => (opening.value = may('helper')) },
  { key: 'f', does: $t('find a vehicle'), run: () => field.value?.focus() },
  { key: 'w', does: $t('workshop: tools, kit sheets'), run: () => void router.push('/workshop') },
  { key: 's', does: $t('bench sums'), run: () => void router.push('/sums') },
  { key: '?', does: $t('these keys'), run: () => (help.value = !help.value) },
])
</script>

<template>
  <div class="board">
    <header class="mast">
      <h1>{{ $t('Jade Gate') }}</h1>
      <span>{{ $t('{place} · day board', { place: workshopName.place }) }}</span>
      <RouterLink class="plain link" to="/sums" data-test="sums">{{ $t('Bench sums') }}</RouterLink>
      <RouterLink class="plain link" to="/workshop" data-test="workshop">{{ $t('Workshop') }}</RouterLink>
      <span class="gap" />
      <KeyHelp v-model="help" :keys="keys" />
      <PersonButton />
    </header>
    <main>
      <StateNote v-if="error" class="halt" :error="$t('The server cannot be reached: {error}', { error })" />
      <p v-for="n in notices" :key="n.words" class="caution" role="alert" data-test="notice">{{ n.words }}</p>
      <label class="field find">
        <span class="sr">{{ $t('Find by name, number, frame number or who brought it') }}</span>
        <input
          ref="field"
          v-model="find"
          type="search"
          :placeholder="$t('Find by name, number, frame number or who brought it')"
          data-test="find"
          @keydown.esc="find = ''"
        />
      </label>
      <section class="panel">
        <header>
          <h2>{{ $t('Standing here') }}</h2>
          <ActButton v-if="may('helper')" variant="flat" data-test="open-new" @click="opening = true">{{
            $t('Open an inspection')
          }}</ActButton>
        </header>
        <BoardList
          :list="standing"
          :signed="false"
          :empty="
            asked
              ? $t('No vehicle here matches.')
              : $t('Nothing stands here. Open an inspection when a vehicle comes in.')
          "
        />
      </section>
      <section class="panel">
        <header>
          <h2>{{ $t('Signed') }}</h2>
        </header>
        <BoardList
          :list="signed"
          :signed="true"
          :empty="asked ? $t('No signed inspection matches.') : $t('Nothing signed yet.')"
        />
      </section>
      <section class="panel side">
        <h2>{{ $t('Due') }}</h2>
        <ul class="rows">
          <li v-for="s in rechecks" :key="s.id">
            <b class="attend">{{ s.name }}</b>
            <div class="small">{{ $t('{next}: look again by {due}', { next: s.next, due: date(s.due) }) }}</div>
          </li>
          <li v-for="l in laws" :key="l.pack" data-test="law-due">
            <RouterLink :to="`/law/${l.pack}`"
              ><b class="attend">{{ $t('Law of {name}', { name: l.name }) }}</b></RouterLink
            >
            <div class="small">
              {{ $t('{words}. Until then no vehicle passes a class of it.', { words: l.words }) }}
            </div>
          </li>
          <li v-for="t in due" :key="t.id">
            <b :class="t.lapsed ? 'stop' : ''">{{ t.id }} {{ t.name }}</b>
            <div class="small">
              {{
                t.lapsed
                  ? $t('certificate expired {valid_to}; its readings do not count', { valid_to: date(t.valid_to!) })
                  : $t('certificate to {valid_to}', { valid_to: date(t.valid_to!) })
              }}
            </div>
          </li>
          <li v-if="dueKnown && !due.length && !rechecks.length && !laws?.length" class="small">
            {{ $t('Nothing in the next sixty days.') }}
          </li>
        </ul>
      </section>
    </main>
    <OpenForm v-model="opening" />
  </div>
</template>

<style scoped>
.gap {
  flex: 1;
}
.mast .plain {
  background: transparent;
  border: 0;
  color: inherit;
  min-height: 44px;
  font: inherit;
  cursor: pointer;
}
.link {
  display: inline-flex;
  align-items: center;
  text-decoration: underline;
  text-underline-offset: 5px;
}
main {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 14px;
  padding: 16px 20px;
  align-items: start;
}
.find {
  grid-column: 1;
}
.side {
  grid-column: 2;
  grid-row: 1 / span 4;
}
.halt {
  grid-column: 1 / -1;
}
@media (max-width: 900px) {
  main {
    grid-template-columns: minmax(0, 1fr);
    padding: 12px;
  }
  .side {
    grid-column: 1;
    grid-row: auto;
  }
}
</style>
