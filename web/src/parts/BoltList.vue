<script setup lang="ts">
import { computed, ref } from 'vue'
import { useInspection } from '@/app/inspection'
import { useWorkshop } from '@/app/workshop'
import { figure } from '@/app/words'
import SheetField from './SheetField.vue'

/** The bolts of one group: window, reading, and what is asked of each. */
const props = defineProps<{ group: string }>()
const { view, set, check, locked } = useInspection()
const { fieldAt, workshop } = useWorkshop()
const bolts = computed(() =>
  (view.value?.sheet.bolts ?? []).map((b, i) => ({ b, i })).filter((x) => x.b.group === props.group),
)
const judged = (i: number) => check(`torque.${props.group}`)?.judged.find((j) => j.output === `bolts.${i}.torque_nm`)
const place = ref('')
const house = ref('')
const windows = computed(() => fieldAt('bolts.0.house')?.enum ?? [])
const open = ref<number | null>(null)
async function add() {
  if (!place.value.trim()) return
  const n = view.value?.sheet.bolts?.length ?? 0
  await set(`bolts.${n}`, {
    place: place.value.trim(),
    group: props.group,
    ...(house.value ? { house: house.value } : {}),
  })
  place.value = ''
}
const windowOf = (i: number, name?: string) => {
  const j = judged(i)
  if (j) return `${figure(j.lower, 2)} to ${figure(j.upper, 2)}`
  const w = (workshop.value?.house.windows as Record<string, number[]> | undefined)?.[name ?? '']
  return w ? `${w[0]} to ${w[1]}` : '–'
}
</script>

<template>
  <div class="bolts">
    <table v-if="bolts.length">
      <thead>
        <tr>
          <th>bolt</th>
          <th class="num">window, N·m</th>
          <th class="num">read</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="{ b, i } in bolts" :key="i">
          <tr :class="{ bad: judged(i)?.result === 'fail' }">
            <td>
              {{ b.place }}<span v-if="b.ring" class="small"> ring {{ b.ring }}</span>
            </td>
            <td class="num">{{ windowOf(i, b.house) }}</td>
            <td class="num">{{ figure(b.torque_nm?.value) }}</td>
            <td>
              <button type="button" class="plain" :aria-expanded="open === i" @click="open = open === i ? null : i">
                read
              </button>
            </td>
          </tr>
          <tr v-if="open === i">
            <td colspan="4">
              <SheetField :path="`bolts.${i}.torque_nm`" /><SheetField :path="`bolts.${i}.locking`" />
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <form class="add" @submit.prevent="add">
      <label class="field"
        ><span>Another bolt</span><input v-model="place" :disabled="locked" placeholder="where it is"
      /></label>
      <label class="field">
        <span>house window</span>
        <select v-model="house" :disabled="locked">
          <option value="">from the kit sheet</option>
          <option v-for="w in windows" :key="w" :value="w">{{ w.replaceAll('_', ' ') }}</option>
        </select>
      </label>
      <VBtn type="submit" :disabled="locked || !place.trim()">Add</VBtn>
    </form>
  </div>
</template>

<style scoped>
.bolts {
  background: var(--panel);
  padding: 8px 10px;
}
.plain {
  min-height: 44px;
  border: 0;
  background: transparent;
  color: inherit;
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
.add {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 8px;
  align-items: end;
  margin-top: 8px;
}
</style>
