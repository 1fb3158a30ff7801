<script setup lang="ts">
import { $t } from '@/lib/say'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiError, take, type Schemas } from '@/api/client'
import { units } from '@/state/session'
import { useCalculations } from '@/state/workshop'
import { inputName } from '@/lib/words'
import { useKeys } from '@/lib/keys'
import KeyHelp from '@/parts/KeyHelp.vue'
import PersonButton from '@/parts/PersonButton.vue'
import SumList from './SumList.vue'
import SumForm from './SumForm.vue'
import SumResult from './SumResult.vue'
import { faults, fieldOf, typed, uncertainties, written, type Tree } from './input'

/** Any calculation by itself, for somebody who only wants one number. */
const calcs = useCalculations()
const route = useRoute()
const router = useRouter()
const name = computed(() => String(route.params.name ?? 'crow-foot'))
const calc = computed(() => calcs.value?.find((c) => c.name === name.value))
const help = ref(false)
const keys = useKeys([
  { key: 'b', does: $t('day board'), run: () => void router.push('/') },
  { key: '?', does: $t('these keys'), run: () => (help.value = !help.value) },
])

const input = ref<Tree>({})
const u = ref<Record<string, string>>({})
const withU = ref(false)
const result = shallowRef<Schemas['CalcResult'] | null>(null)
const problems = shallowRef<Schemas['FieldError'][]>([])

/** The address holds what is reckoned with, in metric units, so that it can be sent to somebody. */
interface Held {
  in?: Tree
  u?: Record<string, string>
}
const held = (): Held => {
  try {
    return JSON.parse(String(route.query.with ?? '{}')) as Held
  } catch {
    return {}
  }
}
watch(
  [name, () => Boolean(calc.value)],
  () => {
    const h = calc.value ? held() : {}
    input.value = written(calc.value?.inputs, h.in)
    u.value = h.u ?? {}
    withU.value = Object.keys(u.value).length > 0
    result.value = null
    problems.value = []
  },
  { immediate: true },
)
watch(units, (_, before) => {
  input.value = written(calc.value?.inputs, typed(calc.value?.inputs, input.value, before))
})
async function example() {
  const r = await take(api.GET('/api/calc/{name}/example', { params: { path: { name: name.value } } }))
  input.value = written(calc.value?.inputs, r)
}
const print = () => window.print()

let turn = 0
const run = useDebounceFn(async () => {
  if (!calc.value) return
  const own = ++turn
  const inputs = typed(calc.value.inputs, input.value)
  const us = withU.value ? u.value : {}
  const link = Object.keys(inputs).length ? JSON.stringify({ in: inputs, ...(withU.value ? { u: us } : {}) }) : ''
  if (link.length < 4000 && link !== (route.query.with ?? ''))
    await router.replace({ query: { with: link || undefined } })
  problems.value = faults(calc.value.inputs, inputs)
  if (problems.value.length) {
    result.value = null
    return
  }
  const body: Record<string, unknown> = { ...inputs, working: true, remedies: true }
  const given = uncertainties(calc.value.inputs, us)
  if (Object.keys(given).length) Object.assign(body, { u: given, draws: 5000, seed: 1 })
  try {
    const r = await take(api.POST('/api/calc/{name}', { params: { path: { name: name.value } }, body: body as never }))
    if (own !== turn) return
    result.value = r
    problems.value = []
  } catch (e) {
    if (own !== turn) return
    result.value = null
    problems.value = (e as ApiError).problem?.errors ?? [{ field: '', problem: (e as Error).message, want: '' }]
  }
}, 120)
watch([input, u, withU], run, { deep: true })

const missing = computed(() => problems.value.filter((p) => p.problem === 'is missing'))
const title = (path: string) => {
  const f = fieldOf(calc.value?.inputs, path)
  return inputName(f?.name ?? path, f?.doc)
}
/** What is wrong, in words, by the field that it is wrong with. */
const wrong = computed(() => {
  const by: Record<string, string> = {}
  for (const p of problems.value)
    if (p.problem !== 'is missing') by[p.field] = [p.problem, p.want].filter(Boolean).join('; ')
  return by
})
/** What no field of the form is to blame for. */
const apart = computed(() =>
  Object.entries(wrong.value)
    .filter(([path]) => !fieldOf(calc.value?.inputs, path))
    .map(([path, words]) => (path ? `${title(path)}: ${words}` : words)),
)
</script>

<template>
  <div class="sums">
    <header class="mast">
      <RouterLink to="/"
        ><h1>{{ $t('Jade Gate') }}</h1></RouterLink
      >
      <span>{{ $t('Bench sums') }}</span>
      <span class="end" />
      <KeyHelp v-model="help" :keys="keys" />
      <PersonButton />
    </header>
    <main id="work" tabindex="-1">
      <SumList :name="name" />
      <div v-if="calc" class="work">
        <section class="panel">
          <header>
            <h2>{{ calc.title }}</h2>
            <span class="acts">
              <button type="button" class="plain" data-test="sum-example" @click="example">
                {{ $t('Start from an example') }}
              </button>
              <button type="button" class="plain" @click="print">{{ $t('Print') }}</button>
            </span>
          </header>
          <p class="small">{{ $t('{summary} Source: {source}.', { summary: calc.summary, source: calc.source }) }}</p>
          <p v-if="calc.caution" class="caution">{{ calc.caution }}</p>
          <label class="u"
            ><input v-model="withU" type="checkbox" data-test="with-u" /> {{ $t('with uncertainties') }}</label
          >
          <SumForm v-model="input" v-model:u="u" :fields="calc.inputs ?? []" path="" :with-u="withU" :wrong="wrong" />
          <p v-for="w in apart" :key="w" class="stop" role="alert" data-test="wrong">{{ w }}</p>
          <p v-if="!Object.keys(wrong).length && missing.length" class="small" role="status">
            {{ $t('Still needed: {missing}', { missing: missing.map((p) => title(p.field)).join(', ') }) }}
          </p>
        </section>
        <div class="work" aria-live="polite">
          <SumResult v-if="result" :result="result" :outputs="calc.outputs ?? []" />
          <p v-else class="panel small">{{ $t('The result appears here as soon as the inputs are complete.') }}</p>
        </div>
      </div>
    </main>
  </div>
</template>

<style scoped>
main {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 14px;
  padding: 16px 20px;
  align-items: start;
}
main:focus {
  outline: none;
}
.end {
  margin-left: auto;
}
.work {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
.form {
  margin-top: 4px;
}
.u {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
}
.u input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
.caution {
  margin: 8px 0;
}
@media (min-width: 1180px) {
  main > .work {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
@media (max-width: 820px) {
  main {
    grid-template-columns: minmax(0, 1fr);
    padding: 12px;
  }
}
@media print {
  main,
  main > .work {
    display: block;
  }
}
</style>
