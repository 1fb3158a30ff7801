<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { shade, who } from '@/app/session'
import { useKeys } from '@/app/keys'
import { useWorkshop } from '@/app/workshop'
import { date, minutes, verdictWord } from '@/app/words'
import GateMark from '@/parts/GateMark.vue'
import KeyHelp from '@/parts/KeyHelp.vue'

const router = useRouter()
const client = useQueryClient()
const { tools, workshop } = useWorkshop()
const { data, error } = useQuery({
  queryKey: ['board'],
  queryFn: () => take(api.GET('/api/board')),
  refetchInterval: 10_000,
})
const inWork = computed(() => (data.value ?? []).filter((s) => !s.signed))
const released = computed(() => (data.value ?? []).filter((s) => s.signed))
const due = computed(() => tools.value.filter((t) => t.lapsed || t.due_soon))
const rechecks = computed(() => released.value.filter((s) => s.due))

const help = ref(false)
const opening = ref(false)
const keys = useKeys([
  { key: 'o', does: 'open an inspection', run: () => (opening.value = true) },
  { key: 'w', does: 'workshop: tools, kit sheets', run: () => void router.push('/workshop') },
  { key: 's', does: 'bench sums', run: () => void router.push('/sums') },
  { key: '?', does: 'these keys', run: () => (help.value = !help.value) },
])

const name = ref('')
const number = ref('')
const kind = ref('bicycle')
const drive = ref('front_hub')
const problem = ref('')
async function open() {
  problem.value = ''
  const sheet = {
    name: name.value.trim(),
    kind: kind.value,
    drives: [{ kind: drive.value, ...(drive.value === 'mid' ? {} : { axle: {} }) }],
  }
  if (!sheet.name || !number.value.trim()) {
    problem.value = 'Give the vehicle a name and the inspection a number.'
    return
  }
  try {
    const v = await take(
      api.POST('/api/inspections', {
        body: {
          id: `open-${number.value.trim()}-${Date.now()}`,
          by: who.value,
          body: { number: number.value.trim(), place: 'Quay Bench', sheet },
        },
      }),
    )
    await client.invalidateQueries({ queryKey: ['board'] })
    await router.push({ name: 'intake', params: { id: v.id } })
  } catch (e) {
    problem.value = (e as ApiError).message
  }
}
const kindWord = (s: Schemas['Summary']) =>
  ({ bicycle: 'bicycle', delta: 'delta trike', tadpole: 'tadpole trike' })[s.kind] ?? s.kind
</script>

<template>
  <div class="board">
    <header class="mast">
      <h1>Jade Gate</h1>
      <span>Quay Bench · day board</span>
      <RouterLink class="plain link" to="/sums" data-test="sums">Bench sums</RouterLink>
      <RouterLink class="plain link" to="/workshop" data-test="workshop">Workshop</RouterLink>
      <span class="gap" />
      <label>
        <span class="sr">Who is working</span>
        <select v-model="who">
          <option v-for="p in workshop?.people" :key="p.id" :value="p.name">{{ p.name }}</option>
        </select>
      </label>
      <button class="plain" @click="shade = shade === 'dark' ? 'light' : 'dark'">
        {{ shade === 'dark' ? 'Light paper' : 'Dark workshop' }}
      </button>
    </header>
    <main>
      <p v-if="error" class="halt" role="alert">The server is away: {{ error.message }}</p>
      <section class="panel">
        <header>
          <h2>Standing here</h2>
          <VBtn variant="flat" data-test="open-new" @click="opening = true">Open an inspection</VBtn>
        </header>
        <div class="scroll">
          <table>
            <thead>
              <tr>
                <th><span class="sr">verdict</span></th>
                <th>vehicle</th>
                <th>number</th>
                <th>bay</th>
                <th>brought by</th>
                <th>next</th>
                <th class="num">left to do</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="s in inWork" :key="s.id" :data-test="`row-${s.id}`" @click="router.push(`/i/${s.id}`)">
                <td class="m"><GateMark :state="s.verdict" :size="32" :label="verdictWord[s.verdict]" /></td>
                <td>
                  <RouterLink :to="`/i/${s.id}`"
                    ><b>{{ s.name }}</b></RouterLink
                  >
                  <div class="small">{{ kindWord(s) }} · {{ verdictWord[s.verdict] }}</div>
                </td>
                <td class="num left">{{ s.number }}</td>
                <td class="num left">{{ s.bay || '–' }}</td>
                <td>{{ s.brought }}</td>
                <td>{{ s.next }}</td>
                <td class="num">
                  {{ s.unsettled ? `${s.unsettled} checks, ${minutes(s.minutes)}` : 'ready to sign' }}
                </td>
              </tr>
              <tr v-if="data && !inWork.length">
                <td colspan="7" class="small">Nothing stands here. Open an inspection when a vehicle comes in.</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>

      <section class="panel">
        <header><h2>Signed</h2></header>
        <div class="scroll">
          <table>
            <thead>
              <tr>
                <th><span class="sr">verdict</span></th>
                <th>vehicle</th>
                <th>number</th>
                <th>signed</th>
                <th>recheck</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="s in released" :key="s.id" @click="router.push(`/i/${s.id}/verdict`)">
                <td class="m"><GateMark :state="s.verdict" :size="32" :label="verdictWord[s.verdict]" /></td>
                <td>
                  <RouterLink :to="`/i/${s.id}/verdict`"
                    ><b>{{ s.name }}</b></RouterLink
                  >
                  <div class="small">{{ kindWord(s) }} · {{ verdictWord[s.verdict] }}</div>
                </td>
                <td class="num left">{{ s.number }}</td>
                <td>{{ s.signed }}, {{ date(s.signed_at) }}</td>
                <td :class="{ attend: s.due }">{{ s.due ? date(s.due) : '–' }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </section>

      <section class="panel side">
        <h2>Due</h2>
        <ul class="rows">
          <li v-for="s in rechecks" :key="s.id">
            <b class="attend">{{ s.name }}</b>
            <div class="small">{{ s.next }}: look again by {{ date(s.due) }}</div>
          </li>
          <li v-for="t in due" :key="t.id">
            <b :class="t.lapsed ? 'stop' : ''">{{ t.id }} {{ t.name }}</b>
            <div class="small">
              {{
                t.lapsed
                  ? `certificate ran out ${date(t.valid_to!)}; its readings do not count`
                  : `certificate to ${date(t.valid_to!)}`
              }}
            </div>
          </li>
          <li v-if="!due.length && !rechecks.length" class="small">Nothing in the next sixty days.</li>
        </ul>
      </section>
    </main>

    <VDialog v-model="opening" max-width="460" aria-label="Open an inspection">
      <form class="sheet" @submit.prevent="open">
        <h2>Open an inspection</h2>
        <label class="field"
          ><span>Vehicle</span><input v-model="name" data-test="new-name" placeholder="Sorrel 3"
        /></label>
        <label class="field"
          ><span>Number</span><input v-model="number" data-test="new-number" placeholder="SI-0421"
        /></label>
        <label class="field">
          <span>Wheels</span>
          <select v-model="kind" data-test="new-kind">
            <option value="bicycle">bicycle</option>
            <option value="delta">trike, one wheel in front</option>
            <option value="tadpole">trike, two wheels in front</option>
          </select>
        </label>
        <label class="field">
          <span>Motor</span>
          <select v-model="drive" data-test="new-drive">
            <option value="front_hub">front hub</option>
            <option value="rear_hub">rear hub</option>
            <option value="mid">mid-drive</option>
          </select>
        </label>
        <p v-if="problem" class="stop" role="alert">{{ problem }}</p>
        <div class="two">
          <VBtn type="submit" variant="flat" data-test="new-open">Open</VBtn>
          <VBtn @click="opening = false">Leave it</VBtn>
        </div>
      </form>
    </VDialog>
    <KeyHelp v-model="help" :keys="keys" />
  </div>
</template>

<style scoped>
.gap {
  flex: 1;
}
.mast select,
.plain {
  background: transparent;
  border: 0;
  color: inherit;
  min-height: 44px;
  font: inherit;
  cursor: pointer;
}
.mast select option {
  color: var(--ink);
  background: var(--panel);
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
.side {
  grid-column: 2;
  grid-row: 1 / span 3;
}
.halt {
  grid-column: 1 / -1;
}
tbody tr {
  cursor: pointer;
}
tbody tr:hover td {
  background: var(--jade-pale);
}
td {
  padding: 11px 12px 11px 0;
}
.m {
  width: 50px;
  padding-left: 4px;
}
td.left {
  text-align: left;
}
a {
  text-decoration: none;
}
.sheet {
  display: grid;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
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
td.num {
  white-space: nowrap;
}
</style>
