<script setup lang="ts">
import ActButton from '@/parts/ActButton.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import { useDraft } from '@/state/draft'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'
import { date, minutes } from '@/lib/words'

/** What was changed since the last visit: each change opens its own checks. */
const { id, view, say, locked } = useInspection()
const { workshop } = useWorkshop()
const picked = ref<string[]>([])
const note = useDraft(() => `${id}:change`)
const title = (op: string) => workshop.value?.operations.find((o) => o.id === op)?.title ?? op
const found = computed(() => view.value?.repairs.filter((r) => r.what.found) ?? [])
const { data: opens } = useQuery({
  queryKey: computed(() => ['undoes', id, picked.value, view.value?.seq]),
  queryFn: () =>
    take(api.GET('/api/inspections/{id}/undoes', { params: { path: { id }, query: { op: picked.value } } })),
  enabled: computed(() => picked.value.length > 0),
})
async function write() {
  if (!picked.value.length) return
  const change = { operations: picked.value, note: note.value.trim(), found: true }
  picked.value = []
  note.value = ''
  await say('repair', change)
}
</script>

<template>
  <section class="panel" data-test="changed">
    <header>
      <h2>{{ $t('What was changed') }}</h2>
      <span class="small">{{ $t('since the last visit, or since it was bought') }}</span>
    </header>
    <ul v-if="found.length" class="rows">
      <li v-for="r in found" :key="r.id">
        {{ (r.what.operations ?? []).map(title).join(', ') }}<template v-if="r.what.note">: {{ r.what.note }}</template>
        <span class="small"> {{ r.by }}, {{ date(r.at) }}</span>
      </li>
    </ul>
    <form v-if="!locked" @submit.prevent="write">
      <fieldset>
        <legend class="sr">{{ $t('operations') }}</legend>
        <label v-for="o in workshop?.operations" :key="o.id" class="op">
          <input v-model="picked" type="checkbox" :value="o.id" :data-test="`op-${o.id}`" /> {{ o.title }}
        </label>
      </fieldset>
      <p v-if="picked.length && opens" class="caution" role="status">
        {{
          $t('Opens {n} checks, {minutes}: {checks}.', {
            n: opens.checks.length,
            minutes: minutes(opens.minutes),
            checks: opens.checks.map((c) => c.title).join(', '),
          })
        }}
      </p>
      <div class="add">
        <label class="field"
          ><span>{{ $t('What exactly') }}</span
          ><input v-model="note"
        /></label>
        <ActButton type="submit" :disabled="!picked.length" data-test="write-change">{{
          $t('Save the change')
        }}</ActButton>
      </div>
    </form>
  </section>
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
}
.op {
  min-height: 40px;
  display: flex;
  align-items: center;
  gap: 9px;
}
.op input {
  width: 20px;
  height: 20px;
  accent-color: var(--jade);
}
.add {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px;
  align-items: end;
  margin-top: 8px;
}
</style>
