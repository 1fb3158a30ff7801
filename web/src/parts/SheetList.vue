<script setup lang="ts">
import { computed } from 'vue'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import PhotoOf from '@/parts/PhotoOf.vue'
import RemoveThis from '@/parts/RemoveThis.vue'
import SheetField from '@/parts/SheetField.vue'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'

/** A list of the sheet: each item with its fields, and how another one is added: by a word, or by a press. */
const props = defineProps<{
  list: string
  title: string
  hint?: string
  /** What an item is called, by its place and what it holds. */
  name: (item: Record<string, unknown>, at: number) => string
  fields: string[]
  /** The field that is typed to add an item, with what is asked for. */
  typed?: { field: string; label: string; test?: string }
  /** Items that a press adds. */
  adds?: { label: string; item: Record<string, unknown>; test?: string }[]
  /** Each item is photographed. */
  photo?: boolean
  test?: string
}>()
const { id, view, add, locked, problem } = useInspection()
const items = computed(() => {
  const sheet = (view.value?.sheet ?? {}) as Record<string, unknown>
  return (sheet[props.list] ?? []) as Record<string, unknown>[]
})
const text = useDraft(() => `${id}:${props.list}`)
async function addTyped() {
  const said = text.value.trim()
  if (!said || !props.typed) return
  text.value = ''
  if (!(await add(props.list, { [props.typed.field]: said })) && problem.value) text.value = said
}
</script>

<template>
  <section class="panel" :data-test="test">
    <header>
      <h2>{{ title }}</h2>
      <span v-if="hint" class="small">{{ hint }}</span>
    </header>
    <ul class="rows">
      <li v-for="(item, i) in items" :key="i">
        <b>{{ name(item, i) }}</b>
        <div class="fields">
          <SheetField v-for="f in fields" :key="f" :path="`${list}.${i}.${f}`" />
        </div>
        <PhotoOf v-if="photo" :path="`${list}.${i}`" :caption="name(item, i)" />
        <RemoveThis :list="list" :index="i" :what="name(item, i)" />
      </li>
    </ul>
    <form v-if="typed && !locked" class="add" @submit.prevent="addTyped">
      <label class="field"
        ><span>{{ typed.label }}</span
        ><input v-model="text" :data-test="typed.test"
      /></label>
      <ActButton type="submit" :disabled="!text.trim()">{{ $t('Add to the list') }}</ActButton>
    </form>
    <p v-if="adds?.length && !locked" class="acts">
      <ActButton v-for="a in adds" :key="a.label" :data-test="a.test" @click="add(list, a.item)">{{
        a.label
      }}</ActButton>
    </p>
  </section>
</template>

<style scoped>
.add {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px;
  align-items: end;
  margin-top: 8px;
}
</style>
