<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, inject, ref, watch } from 'vue'
import type { Field } from '@/api/client'
import { notNumber, outOfRange, parseNumber } from '@/lib/number'
import { inputName, term } from '@/lib/words'
import ActButton from '@/parts/ActButton.vue'
import { packKey, type Way } from './packText'

/** One field of a rule pack, by its description. Figures stand in the pack's own units, as the law writes them. */
const props = defineProps<{ f: Field; way: Way }>()
const { pack, wrong } = inject(packKey)!
const stored = computed(() => pack.get(props.way))
const name = computed(() => inputName(props.f.name, props.f.doc))
const numeric = computed(() => props.f.kind === 'number' || props.f.kind === 'integer')
const items = computed(() => (Array.isArray(stored.value) ? (stored.value as unknown[]) : []))
const shown = () => {
  const v = stored.value
  if (props.f.kind === 'list') return items.value.join('\n')
  if (props.f.kind === 'map')
    return Object.entries((v ?? {}) as Record<string, string[]>)
      .map(([k, x]) => `${k}: ${x.join(', ')}`)
      .join('\n')
  return v === null || v === undefined ? '' : String(v)
}
const typed = ref(shown())
watch(stored, () => (typed.value = shown()))
const error = ref('')
const told = computed(() => error.value || wrong.value[props.way.join('.')] || '')
const lines = () =>
  typed.value
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean)

function save() {
  error.value = ''
  const text = typed.value.trim()
  if (numeric.value && text !== '') {
    const n = parseNumber(text)
    if (n === undefined) error.value = notNumber(text, props.f.unit)
    else if (props.f.kind === 'integer' && !Number.isInteger(n)) error.value = $t('Type a whole number.')
    else if (outOfRange(props.f, n))
      error.value = $t('Between {min} and {max}{props}.', {
        min: props.f.min,
        max: props.f.max,
        props: props.f.unit ? ` ${props.f.unit}` : '',
      })
    else pack.put([props.way, n])
    return
  }
  if (props.f.kind === 'list') pack.put([props.way, lines().length ? lines() : undefined])
  else if (props.f.kind === 'map') {
    const by = lines().map((l) => l.split(':'))
    if (by.some((p) => p.length !== 2)) {
      error.value = $t('A line each: the requirement, a colon, the papers.')
      return
    }
    const map = Object.fromEntries(by.map(([k, v]) => [k!.trim(), v!.split(',').map((x) => x.trim())]))
    pack.put([props.way, by.length ? map : undefined])
  } else pack.put([props.way, text])
}
function tick(word: string, on: boolean) {
  const all = items.value.filter((x) => x !== word)
  pack.put([props.way, on ? [...all, word] : all])
}
</script>

<template>
  <fieldset v-if="f.kind === 'object'" class="part">
    <legend>{{ name }}</legend>
    <div class="fields">
      <PackValue v-for="g in f.fields" :key="g.name" :f="g" :way="[...way, g.name]" />
    </div>
  </fieldset>
  <fieldset v-else-if="f.kind === 'list' && f.items === 'object'" class="part wide">
    <legend>{{ name }}</legend>
    <div v-for="(_, i) in items" :key="i" class="fields item">
      <PackValue v-for="g in f.fields" :key="g.name" :f="g" :way="[...way, i, g.name]" />
      <ActButton variant="text" @click="pack.put([[...way, i], undefined])">{{ $t('Remove this one') }}</ActButton>
    </div>
    <ActButton :data-pack-add="way.join('.')" @click="pack.put([[...way, items.length], {}])">{{
      $t('Add one')
    }}</ActButton>
  </fieldset>
  <fieldset v-else-if="f.kind === 'list' && f.enum" class="part ticks">
    <legend>{{ name }}</legend>
    <label v-for="w in f.enum" :key="w"
      ><input
        type="checkbox"
        :checked="items.includes(w)"
        :data-pack-at="`${way.join('.')}.${w}`"
        @change="tick(w, ($event.target as HTMLInputElement).checked)"
      />
      {{ term(w) }}</label
    >
    <p v-if="told" class="small stop">{{ told }}</p>
  </fieldset>
  <label v-else-if="f.kind === 'boolean'" class="ticks"
    ><input
      type="checkbox"
      :checked="stored === true"
      :data-pack-at="way.join('.')"
      @change="pack.put([way, ($event.target as HTMLInputElement).checked || undefined])"
    />
    {{ f.name === 'strict' ? $t('less than, not up to') : name }}</label
  >
  <label v-else class="field" :class="{ wide: f.kind === 'list' || f.kind === 'map' }">
    <span>{{ name }}{{ f.unit ? `, ${f.unit}` : '' }}{{ f.kind === 'list' ? $t(', a line each') : '' }}</span>
    <select
      v-if="f.enum"
      :value="typed"
      :data-pack-at="way.join('.')"
      @change="pack.put([way, ($event.target as HTMLSelectElement).value])"
    >
      <option value="">–</option>
      <option v-for="w in f.enum" :key="w" :value="w">{{ term(w) }}</option>
    </select>
    <textarea
      v-else-if="f.kind === 'list' || f.kind === 'map'"
      v-model="typed"
      :rows="Math.max(2, typed.split('\n').length)"
      :data-pack-at="way.join('.')"
      @change="save"
    />
    <input
      v-else
      v-model="typed"
      :class="{ num: numeric }"
      :inputmode="numeric ? 'decimal' : 'text'"
      autocomplete="off"
      :aria-invalid="told !== ''"
      :data-pack-at="way.join('.')"
      @change="save"
    />
    <span v-if="told" class="small stop" role="alert">{{ told }}</span>
  </label>
</template>

<style scoped>
.part {
  border: 1px solid var(--line);
  margin: 0;
  padding: 4px 10px 10px;
  min-width: 0;
}
.wide {
  grid-column: 1 / -1;
}
.item > :last-child {
  justify-self: start;
}
.item {
  border-bottom: 1px solid var(--line);
  padding-bottom: 8px;
}
.ticks,
.ticks label {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  margin-right: 14px;
}
fieldset.ticks {
  display: block;
}
textarea {
  width: 100%;
  font: inherit;
  border: 1px solid var(--soft);
  border-radius: 3px;
  background: var(--field);
  color: var(--ink);
  padding: 6px 8px;
}
</style>
