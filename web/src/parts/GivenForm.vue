<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { computed } from 'vue'
import type { Field } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { ofTheHouse } from '@/lib/evidence'
import { at } from '@/lib/sheet'
import { inputName } from '@/lib/words'
import { calcOf, useCalculations, useWorkshop } from '@/state/workshop'
import RemoveThis from './RemoveThis.vue'
import SheetField from './SheetField.vue'

/** The readings of a calculation, made from its own description. */
const props = defineProps<{ path: string; fields?: Field[] }>()
const { view, add, locked } = useInspection()
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
const title = (f: Field) => inputName(f.name, f.doc)

const items = (f: Field) => (at(view.value?.sheet, `${props.path}.${f.name}`) as unknown[] | undefined) ?? []
/** The first one of a list is ready to be said, whether or not anything was. */
const shown = (f: Field) => (items(f).length || locked.value ? items(f) : [{}])
</script>

<template>
  <div v-if="plain.length || nested.length" class="given">
    <div v-if="plain.length" class="fields">
      <SheetField v-for="f in plain" :key="f.name" :path="`${path}.${f.name}`" :title="title(f)" />
    </div>
    <fieldset v-for="f in nested" :key="f.name">
      <legend>{{ title(f) }}</legend>
      <GivenForm v-if="f.kind === 'object'" :path="`${path}.${f.name}`" :fields="f.fields" />
      <template v-else>
        <div v-for="(_, i) in shown(f)" :key="i" class="item">
          <GivenForm :path="`${path}.${f.name}.${i}`" :fields="f.fields" />
          <RemoveThis
            v-if="i < items(f).length"
            :list="`${path}.${f.name}`"
            :index="i"
            :what="$t('no. {n} of {list}', { n: i + 1, list: title(f) })"
          />
        </div>
        <ActButton
          v-if="items(f).length"
          :disabled="locked"
          :data-add="`${path}.${f.name}`"
          @click="add(`${path}.${f.name}`, {})"
          >{{ $t('Add one') }}</ActButton
        >
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
