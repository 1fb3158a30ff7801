<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiError, take, type Field, type Schemas } from '@/api/client'
import { useCalculations } from '@/app/workshop'
import { figure, inputName, withUnit } from '@/app/words'
import MarginRibbon from '@/parts/MarginRibbon.vue'
import SumForm from './SumForm.vue'

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
      out[k] = (v as string[]).map((x) => (f.items === 'number' || f.items === 'integer' ? Number(x) : x))
    else if (f.kind === 'number' || f.kind === 'integer') out[k] = Number.isFinite(Number(v)) ? Number(v) : v
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
    if (typeof v !== 'number') return [{ field, problem: 'is not a number', want: `give ${range}` }]
    const out = (f.min != null && v < f.min) || (f.max != null && v > f.max)
    return out ? [{ field, problem: 'is out of range', want: `give ${range}` }] : []
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
      .filter(([, v]) => v !== '' && Number.isFinite(Number(v)))
      .map(([k, v]) => [k, Number(v)]),
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

interface Row {
  name: string
  doc: string
  unit?: string
  value: unknown
  u?: number
  lo?: number
  hi?: number
}
function rows(fields: Field[] | undefined, tree: unknown, path = ''): Row[] {
  return (fields ?? []).flatMap((f) => {
    const v = (tree as Record<string, unknown> | undefined)?.[f.name]
    const p = path ? `${path}.${f.name}` : f.name
    if (v === undefined || v === null) return []
    if (f.kind === 'object') return rows(f.fields, v, p)
    if (f.kind === 'list' && f.items === 'object')
      return (v as unknown[]).slice(0, 12).flatMap((x, i) => rows(f.fields, x, `${p}.${i}`))
    if (f.kind === 'list')
      return [
        {
          name: p,
          doc: f.doc ?? '',
          unit: f.unit,
          value: (v as unknown[]).map((x) => (typeof x === 'number' ? figure(x) : x)).join('  '),
        },
      ]
    if (f.kind === 'map')
      return Object.entries(v as Record<string, unknown>).map(([k, x]) => ({
        name: `${p}.${k}`,
        doc: '',
        value: typeof x === 'number' ? figure(x) : JSON.stringify(x),
      }))
    const r = result.value!
    return [{ name: p, doc: f.doc ?? '', unit: f.unit, value: v, u: r.u?.[p], lo: r.p05?.[p], hi: r.p95?.[p] }]
  })
}
const outputs = computed(() => (result.value ? rows(calc.value?.outputs, result.value) : []))
const ribbons = computed(() => result.value?.judged?.filter((j) => j.value !== null) ?? [])
const conditions = computed(() => result.value?.judged?.filter((j) => j.value === null) ?? [])
const shown = (r: Row) =>
  typeof r.value === 'number'
    ? withUnit(r.value, r.unit, 4)
    : typeof r.value === 'boolean'
      ? r.value
        ? 'yes'
        : 'no'
      : String(r.value)
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
        <template v-if="result">
          <section v-if="ribbons.length || conditions.length" class="panel ribbons">
            <h2>Judged by the house's limits</h2>
            <MarginRibbon v-for="j in ribbons" :key="j.output + j.words" :j="j" />
            <p v-for="j in conditions" :key="j.output + j.words" :class="j.result === 'pass' ? 'holds' : 'stop'">
              {{ j.words }}: {{ j.result === 'pass' ? 'so' : 'not so' }}
            </p>
          </section>
          <section class="panel">
            <h2>It comes to</h2>
            <table data-test="outputs">
              <tbody>
                <tr v-for="r in outputs" :key="r.name">
                  <td>
                    {{ r.doc || inputName(r.name) }}
                    <div class="small num">{{ r.name }}</div>
                  </td>
                  <td class="num">{{ shown(r) }}</td>
                  <td class="num small">
                    {{ r.u ? `u ${figure(r.u, 2)}` : '' }}
                    <div v-if="r.lo !== undefined && r.u">{{ figure(r.lo) }} to {{ figure(r.hi) }}</div>
                  </td>
                </tr>
              </tbody>
            </table>
          </section>
          <section v-if="result.remedies?.length" class="panel">
            <h2>What would make it pass</h2>
            <ul class="rows">
              <li v-for="(r, i) in result.remedies" :key="i">
                <b v-for="c in r.changes" :key="c.key"
                  >{{ c.title }} {{ withUnit(c.to, c.unit)
                  }}<span class="small"> from {{ withUnit(c.from, c.unit) }} </span></b
                >
                <div class="small">{{ r.enough ? `${r.minutes} min` : 'not enough by itself' }}</div>
              </li>
            </ul>
          </section>
          <section v-if="result.working?.length" class="panel scroll">
            <h2>The working</h2>
            <table>
              <tbody>
                <tr v-for="s in result.working" :key="s.symbol">
                  <td>{{ s.symbol }}</td>
                  <td>{{ s.expr }}</td>
                  <td class="num left">{{ s.numbers }}</td>
                  <td class="num">{{ withUnit(s.value, s.unit, 4) }}</td>
                  <td class="small">{{ s.source }}</td>
                </tr>
              </tbody>
            </table>
          </section>
        </template>
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
td.left {
  text-align: left;
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
