<script setup lang="ts">
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useQueryClient } from '@tanstack/vue-query'
import { reactive, ref } from 'vue'
import { api, faults, take, type Schemas, type Tool } from '@/api/client'
import StateNote from '@/parts/StateNote.vue'
import { notNumber, parseNumber } from '@/lib/number'

/** One tool of the register: range, error, certificate. */
const props = defineProps<{ tool: Tool | null; kinds: readonly string[] }>()
const emit = defineEmits<{ done: [] }>()
const client = useQueryClient()
const t = reactive({
  id: props.tool?.id ?? '',
  name: props.tool?.name ?? '',
  kind: props.tool?.kind ?? 'torque',
  unit: props.tool?.unit ?? 'N·m',
  min: String(props.tool?.min ?? ''),
  max: String(props.tool?.max ?? ''),
  a_pct: String(props.tool?.a_pct ?? ''),
  a_abs: String(props.tool?.a_abs ?? ''),
  resolution: String(props.tool?.resolution ?? ''),
  beam: props.tool?.beam ?? false,
  certified: props.tool?.certified ?? false,
  certificate: props.tool?.certificate ?? '',
  issued: props.tool?.issued ?? '',
  valid_to: props.tool?.valid_to ?? '',
})
const wrong = ref<Record<string, string>>({})
const problem = ref('')
const figures: [key: 'min' | 'max' | 'a_pct' | 'a_abs' | 'resolution', words: string][] = [
  ['min', $t('lowest reading')],
  ['max', $t('highest reading')],
  ['a_pct', $t('error, % of the reading')],
  ['a_abs', $t('error, fixed part')],
  ['resolution', $t('step of the display')],
]
async function save() {
  wrong.value = {}
  problem.value = ''
  const body = { ...t } as Record<string, unknown>
  for (const [k, words] of figures) {
    const n = t[k].trim() === '' ? 0 : parseNumber(t[k])
    if (n === undefined) wrong.value[k] = `${words}: ${notNumber(t[k])}`
    body[k] = n
  }
  if (Object.keys(wrong.value).length) return
  try {
    const id = t.id.trim() || '-'
    await take(
      api.PUT('/api/instruments/{id}', { params: { path: { id } }, body: body as unknown as Schemas['Instrument'] }),
    )
    await client.invalidateQueries({ queryKey: ['workshop'] })
    emit('done')
  } catch (e) {
    for (const f of faults(e)) {
      if (f.field) wrong.value[f.field] = f.words
      else problem.value = f.words
    }
  }
}
</script>

<template>
  <form class="tool" data-test="tool-form" @submit.prevent="save">
    <label class="field">
      <span>{{ $t('number on the tool') }}</span>
      <input v-model="t.id" :disabled="tool !== null" :aria-invalid="Boolean(wrong.id)" data-test="tool-id" />
      <small v-if="wrong.id" class="stop">{{ wrong.id }}</small>
    </label>
    <label class="field">
      <span>{{ $t('what it is') }}</span>
      <input v-model="t.name" :aria-invalid="Boolean(wrong.name)" data-test="tool-name" />
      <small v-if="wrong.name" class="stop">{{ wrong.name }}</small>
    </label>
    <label class="field">
      <span>{{ $t('kind') }}</span>
      <select v-model="t.kind">
        <option v-for="k in kinds" :key="k" :value="k">{{ term(k) }}</option>
      </select>
    </label>
    <label class="field">
      <span>{{ $t('unit') }}</span>
      <input v-model="t.unit" :aria-invalid="Boolean(wrong.unit)" />
      <small v-if="wrong.unit" class="stop">{{ wrong.unit }}</small>
    </label>
    <label v-for="[k, words] in figures" :key="k" class="field">
      <span>{{ words }}</span>
      <input
        v-model="t[k]"
        class="num"
        inputmode="decimal"
        :aria-invalid="Boolean(wrong[k])"
        :data-test="`tool-${k}`"
      />
      <small v-if="wrong[k]" class="stop">{{ wrong[k] }}</small>
    </label>
    <label class="field">
      <span>{{ $t("certificate's number") }}</span>
      <input v-model="t.certificate" :aria-invalid="Boolean(wrong.certificate)" data-test="tool-certificate" />
      <small v-if="wrong.certificate" class="stop">{{ wrong.certificate }}</small>
    </label>
    <label class="field">
      <span>{{ $t("certificate's own day") }}</span>
      <input
        v-model="t.issued"
        :placeholder="$t('YYYY-MM-DD')"
        :aria-invalid="Boolean(wrong.issued)"
        data-test="tool-issued"
      />
      <small v-if="wrong.issued" class="stop">{{ wrong.issued }}</small>
    </label>
    <label class="field">
      <span>{{ $t("certificate's last day") }}</span>
      <input
        v-model="t.valid_to"
        :placeholder="$t('YYYY-MM-DD')"
        :aria-invalid="Boolean(wrong.valid_to)"
        data-test="tool-valid"
      />
      <small v-if="wrong.valid_to" class="stop">{{ wrong.valid_to }}</small>
    </label>
    <label v-if="t.kind === 'torque'" class="tick"
      ><input v-model="t.beam" type="checkbox" /> {{ $t('bending beam') }}</label
    >
    <label v-if="t.kind === 'torque'" class="tick">
      <input v-model="t.certified" type="checkbox" />
      {{ $t("the error is its certificate's; else ±4 % over 10 N·m, ±6 % below") }}
    </label>
    <StateNote :error="problem" />
    <div class="acts">
      <ActButton type="submit" variant="flat" data-test="tool-save">{{
        tool ? $t('Save the tool') : $t('Enter the tool')
      }}</ActButton>
      <ActButton variant="text" @click="emit('done')">{{ $t('Cancel') }}</ActButton>
    </div>
  </form>
</template>

<style scoped>
.tool {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 8px 16px;
  padding: 10px 0;
}
.tick {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  font-size: 14px;
}
.tick input {
  width: 20px;
  height: 20px;
  flex: none;
}
.acts {
  grid-column: 1 / -1;
}
</style>
