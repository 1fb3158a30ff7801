<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { computed } from 'vue'
import type { Field } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { ofTheHouse } from '@/lib/evidence'
import { inputLabel } from '@/lib/words'
import { calcOf, useCalculations, useWorkshop } from '@/state/workshop'
import SheetField from './SheetField.vue'

/** The readings of a calculation, made from its own description. */
const props = defineProps<{ path: string; fields?: Field[] }>()
const { view, set, locked } = useInspection()
const calcs = useCalculations()
const { workshop } = useWorkshop()
/** What the sheet, the ledger or a recording knows is taken from there and not asked again. */
const known = computed(() =>
  props.fields ? {} : (workshop.value?.known[props.path.split('.')[1]!.replace(/_\d+$/, '')] ?? {}),
)
const fields = computed(() =>
  (props.fields ?? calcOf(calcs.value, props.path.split('.')[1]!)?.inputs ?? []).filter(
    (f) => !ofTheHouse(f) && !(f.name in known.value),
  ),
)
const plain = computed(() => fields.value.filter((f) => ['number', 'integer', 'string', 'boolean'].includes(f.kind)))
const nested = computed(() =>
  fields.value.filter((f) => f.kind === 'object' || (f.kind === 'list' && f.items === 'object')),
)
const title = (f: Field) => inputLabel(f.name, f.doc)

function at(path: string): unknown {
  let v: unknown = view.value?.sheet
  for (const k of path.split('.')) v = (v as Record<string, unknown> | undefined)?.[k]
  return v
}
const items = (f: Field) => (at(`${props.path}.${f.name}`) as unknown[] | undefined) ?? []
const add = (f: Field) => set(`${props.path}.${f.name}`, [...items(f), {}])
const remove = (f: Field, i: number) =>
  set(
    `${props.path}.${f.name}`,
    items(f).filter((_, k) => k !== i),
  )
</script>

<template>
  <div class="given">
    <div class="fields">
      <SheetField v-for="f in plain" :key="f.name" :path="`${path}.${f.name}`" :title="title(f)" />
    </div>
    <fieldset v-for="f in nested" :key="f.name">
      <legend>{{ title(f) }}</legend>
      <GivenForm v-if="f.kind === 'object'" :path="`${path}.${f.name}`" :fields="f.fields" />
      <template v-else>
        <div v-for="(_, i) in items(f)" :key="i" class="item">
          <GivenForm :path="`${path}.${f.name}.${i}`" :fields="f.fields" />
          <ActButton variant="text" :disabled="locked" @click="remove(f, i)">Take it off</ActButton>
        </div>
        <ActButton :disabled="locked" :data-add="`${path}.${f.name}`" @click="add(f)">Add one</ActButton>
      </template>
    </fieldset>
  </div>
</template>

<style scoped>
.given {
  background: var(--panel);
  padding: 10px;
  color: var(--ink);
}
fieldset {
  border: 1px solid var(--line);
  margin: 10px 0 0;
  padding: 6px 10px;
  min-width: 0;
}
.item {
  border-bottom: 1px solid var(--line);
}
</style>
