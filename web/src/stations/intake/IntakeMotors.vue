<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import RemoveThis from '@/parts/RemoveThis.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, ApiError, take } from '@/api/client'
import { useInspection } from '@/state/inspection'
import { batch, newId } from '@/state/outbox'
import SheetField from '@/parts/SheetField.vue'
import { driveFields, motorWord } from './parts'

/** The motors, each with its kit sheet to fill from. */
const { id, view, add, locked, settled } = useInspection()
const { data: kits } = useQuery({ queryKey: ['kits'], queryFn: () => take(api.GET('/api/kits')) })
const drives = computed(() => view.value?.sheet.drives ?? [])
const said = ref('')
const choice = reactive<Record<number, string>>({})
const suited = (kind: string) => (kits.value ?? []).filter((k) => k.kit.kind === kind)
const chosen = (i: number, kind: string) => choice[i] ?? suited(kind)[0]?.kit.name ?? ''
async function fill(i: number, kind: string) {
  said.value = ''
  if (!(await settled('drives'))) return // what was said before is not filled in again
  const kit = chosen(i, kind)
  try {
    const done = await batch(id, () =>
      take(api.POST('/api/inspections/{id}/kit', { params: { path: { id } }, body: { id: newId(), kit, drive: i } })),
    )
    said.value = done.entries
      ? $t('{kit}: {entries} values filled in; what was measured or read off a label was kept.', {
          kit,
          entries: done.entries,
        })
      : $t('{kit}: nothing new to fill in.', { kit })
  } catch (e) {
    said.value = (e as ApiError).message
  }
}
const fitMotor = (kind: string) => add('drives', { kind, ...(kind === 'mid' ? {} : { axle: {} }) })
</script>

<template>
  <section v-for="(d, i) in drives" :key="i" class="panel" :data-test="`motor-${i}`">
    <header>
      <h2>{{ $t('Motor, {motorWord}', { motorWord: motorWord[d.kind] }) }}</h2>
      <RemoveThis
        list="drives"
        :index="i"
        :what="$t('the {motorWord} motor', { motorWord: motorWord[d.kind] })"
        :test="`remove-motor-${i}`"
      />
    </header>
    <form v-if="!locked" class="kit" @submit.prevent="fill(i, d.kind)">
      <label class="field">
        <span>{{ $t('Kit sheet') }}</span>
        <select :value="chosen(i, d.kind)" @change="choice[i] = ($event.target as HTMLSelectElement).value">
          <option v-for="k in suited(d.kind)" :key="k.kit.name" :value="k.kit.name">
            {{ k.kit.name }}, {{ k.kit.edition }}
          </option>
        </select>
      </label>
      <ActButton type="submit" :variant="d.kit ? 'outlined' : 'flat'" :data-test="`fill-${i}`">{{
        $t('Fill in from it')
      }}</ActButton>
    </form>
    <p v-if="said" class="small" role="status">{{ said }}</p>
    <div class="fields">
      <SheetField :path="`drives.${i}.kit`" :title="$t('kit')" />
      <SheetField v-for="[p] in driveFields(view!.sheet, i)" :key="p" :path="p" />
    </div>
  </section>
  <section v-if="!locked" class="panel more">
    <h2>{{ drives.length ? $t('Another motor') : $t('Motor') }}</h2>
    <span>
      <ActButton v-for="(n, k) in motorWord" :key="k" :data-test="`add-${k}`" @click="fitMotor(k)">{{
        $t('Add a {kind} motor', { kind: n })
      }}</ActButton>
    </span>
  </section>
</template>

<style scoped>
.kit {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 10px;
  align-items: end;
  margin-bottom: 6px;
}
.fields {
  margin: 8px 0;
}
.more span {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
</style>
