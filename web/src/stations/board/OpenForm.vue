<script setup lang="ts">
import { $t } from '@/lib/say'
import AppDialog from '@/parts/AppDialog.vue'
import ActButton from '@/parts/ActButton.vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ApiError, take } from '@/api/client'
import { newId } from '@/state/outbox'
import { workshopName } from '@/state/session'
import StateNote from '@/parts/StateNote.vue'

/** Opens the inspection of a vehicle that has come. */
const open = defineModel<boolean>({ required: true })
const router = useRouter()
const client = useQueryClient()
const name = ref('')
const number = ref('')
const kind = ref('bicycle')
const drive = ref('front_hub')
const problem = ref('')
/** A try that got no answer may have arrived: the next one is the same. */
const token = newId()
async function begin() {
  problem.value = ''
  const sheet = {
    name: name.value.trim(),
    kind: kind.value,
    drives: [{ kind: drive.value, ...(drive.value === 'mid' ? {} : { axle: {} }) }],
  }
  if (!sheet.name || !number.value.trim()) {
    problem.value = $t('Give the vehicle a name and the inspection a number.')
    return
  }
  try {
    const v = await take(
      api.POST('/api/inspections', {
        body: {
          id: token,
          body: { number: number.value.trim(), place: workshopName.value.place, sheet },
        },
      }),
    )
    await client.invalidateQueries({ queryKey: ['board'] })
    await router.push({ name: 'intake', params: { id: v.id } })
  } catch (e) {
    problem.value = (e as ApiError).message
  }
}
</script>

<template>
  <AppDialog v-model="open" max-width="460" :aria-label="$t('Open an inspection')">
    <form class="sheet" @submit.prevent="begin">
      <h2>{{ $t('Open an inspection') }}</h2>
      <label class="field"
        ><span>{{ $t('Vehicle') }}</span
        ><input v-model="name" data-test="new-name" :placeholder="$t('Sorrel 3')"
      /></label>
      <label class="field"
        ><span>{{ $t('Number') }}</span
        ><input v-model="number" data-test="new-number" :placeholder="$t('SI-0421')"
      /></label>
      <label class="field">
        <span>{{ $t('Wheels') }}</span>
        <select v-model="kind" data-test="new-kind">
          <option value="bicycle">{{ $t('bicycle') }}</option>
          <option value="delta">{{ $t('trike, one wheel in front') }}</option>
          <option value="tadpole">{{ $t('trike, two wheels in front') }}</option>
        </select>
      </label>
      <label class="field">
        <span>{{ $t('Motor') }}</span>
        <select v-model="drive" data-test="new-drive">
          <option value="front_hub">{{ $t('front hub') }}</option>
          <option value="rear_hub">{{ $t('rear hub') }}</option>
          <option value="mid">{{ $t('mid-drive') }}</option>
        </select>
      </label>
      <StateNote :error="problem" />
      <div class="two">
        <ActButton type="submit" variant="flat" data-test="new-open">{{ $t('Open') }}</ActButton>
        <ActButton @click="open = false">{{ $t('Cancel') }}</ActButton>
      </div>
    </form>
  </AppDialog>
</template>

<style scoped>
.sheet {
  display: grid;
  gap: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
</style>
