<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiError, take, type Field, type Schemas } from '@/api/client'
import { useCalculations } from '@/state/workshop'
import SumForm from './SumForm.vue'
import { notNumber, outOfRange, parseNumber } from '@/lib/number'
import SumResult from './SumResult.vue'

/** Any calculation by itself, for somebody who only wants one number. */
const calcs = useCalculations()
const route = useRoute()
const router = useRouter()
const name = computed(() => String(route.params.name ?? 'crow-foot'))
const calc = computed(() => calcs.value?.find((c) => c.name === name.value))
const input = ref<Record<string, unknown>>({})
const u = ref<Record<string, string>>({})
const withU = ref(false)
const result = shallowRef<Schemas['CalcResult'] | null>(null)
const problems = shallowRef<Schemas['FieldError'][]>([])
watch(name, () => {
  input.value = {}
  u.value = {}
  result.value = null
  problems.value = []
})

/** What was typed, with numbers as numbers where the description says so. */
function typed(fields: Field[] | undefined, tree: unknown): unknown {
  const out: Record<string, unknown> = {}
  for (const [k, v] of Object.entries((tree ?? {}) as Record<string, unknown>)) {
    const f = fields?.find((x) => x.name === k)
    if (!f) continue
    if (f.kind === 'object') out[k] = typed(f.fields, v)
    else if (f.kind === 'list' && f.items === 'object') out[k] = (v as unknown[]).map((x) => typed(f.fields, x))
    else if (f.kind === 'list')
      out[k] = (v as string[]).map((x) => (f.items === 'number' || f.items === 'integer' ? (parseNumber(x) ?? x) : x))
    else if (f.kind === 'number' || f.kind === 'integer') out[k] = parseNumber(String(v)) ?? v
    else out[k] = v
  }
  return out
}

/** What the description alone can say of the input, before anything is sent. */
function faults(fields: Field[] | undefined, tree: Record<string, unknown>, path = ''): Schemas['FieldError'][] {
  return (fields ?? []).flatMap((f) => {
    const field = path ? `${path}.${f.name}` : f.name
    const v = tree[f.name]
    if (v === undefined || v === '') return f.required ? [{ field, problem: 'is missing', want: '' }] : []
    if (f.kind === 'object') return faults(f.fields, v as Record<string, unknown>, field)
    if (f.kind === 'list' && f.items === 'object')
      return (v as Record<string, unknown>[]).flatMap((x, i) => faults(f.fields, x, `${field}.${i}`))
    if (f.kind !== 'number' && f.kind !== 'integer') return []
    const range = `${f.min ?? ''} to ${f.max ?? ''} ${f.unit ?? ''}`.trim()
    if (typeof v !== 'number') return [{ field, problem: notNumber(String(v), f.unit), want: `give ${range}` }]
    if (f.whole && !Number.isInteger(v)) return [{ field, problem: 'is not a whole number', want: `give ${range}` }]
    return outOfRange(f, v) ? [{ field, problem: 'is out of range', want: `give ${range}` }] : []
  })
}

let turn = 0
const run = useDebounceFn(async () => {
  if (!calc.value) return
  const own = ++turn
  const inputs = typed(calc.value.inputs, input.value) as Record<string, unknown>
  problems.value = faults(calc.value.inputs, inputs)
  if (problems.value.length) {
    result.value = null
    return
  }
  const body: Record<string, unknown> = {
    ...inputs,
    working: true,
    remedies: true,
  }
  const us = Object.fromEntries(
    Object.entries(u.value)
      .map(([k, v]) => [k, parseNumber(v)] as const)
      .filter(([, v]) => v !== undefined),
  )
  if (withU.value && Object.keys(us).length) Object.assign(body, { u: us, draws: 5000, seed: 1 })
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
const wrong = computed(() => problems.value.filter((p) => p.problem !== 'is missing'))
</script>

<template>
  <div class="sums">
    <header class="mast">
      <RouterLink to="/"><h1>Jade Gate</h1></RouterLink>
      <span>Bench sums</span>
    </header>
    <main>
      <nav class="panel" aria-label="Calculations">
        <label class="field pick">
          <span>What do you want to know?</span>
          <select
            :value="name"
            @change="router.push({ name: 'sums', params: { name: ($event.target as HTMLSelectElement).value } })"
          >
            <option v-for="c in calcs" :key="c.name" :value="c.name">{{ c.title }}</option>
          </select>
        </label>
        <ul>
          <li v-for="c in calcs" :key="c.name">
            <RouterLink
              :to="{ name: 'sums', params: { name: c.name } }"
              :aria-current="c.name === name ? 'page' : undefined"
              >{{ c.title }}</RouterLink
            >
          </li>
        </ul>
      </nav>
      <div v-if="calc" class="work">
        <section class="panel">
          <header>
            <h2>{{ calc.title }}</h2>
            <label class="u"><input v-model="withU" type="checkbox" data-test="with-u" /> with uncertainties</label>
          </header>
          <p class="small">{{ calc.summary }} Source: {{ calc.source }}.</p>
          <p v-if="calc.caution" class="caution">{{ calc.caution }}</p>
          <SumForm v-model="input" v-model:u="u" :fields="calc.inputs ?? []" path="" :with-u="withU" />
          <ul v-if="wrong.length" class="stop" role="alert" data-test="wrong">
            <li v-for="p in wrong" :key="p.field + p.problem">
              <b>{{ p.field }}</b> {{ p.problem }}<template v-if="p.want">; {{ p.want }}</template>
            </li>
          </ul>
          <p v-else-if="missing.length" class="small">Still needed: {{ missing.map((p) => p.field).join(', ') }}</p>
        </section>
        <SumResult v-if="result" :result="result" :outputs="calc.outputs ?? []" />
      </div>
    </main>
  </div>
</template>

<style scoped>
main {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 14px;
  padding: 16px 20px;
  align-items: start;
}
nav ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
nav a {
  display: block;
  padding: 8px 6px;
  text-decoration: none;
  border-top: 1px solid var(--line);
}
nav a[aria-current] {
  background: var(--jade-pale);
  font-weight: 700;
}
.pick {
  display: none;
}
.work,
.ribbons {
  display: grid;
  gap: 14px;
}
.form {
  margin-top: 12px;
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
@media (max-width: 820px) {
  main {
    grid-template-columns: minmax(0, 1fr);
    padding: 12px;
  }
  nav ul {
    display: none;
  }
  .pick {
    display: block;
  }
}
</style>
