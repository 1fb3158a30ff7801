<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed } from 'vue'
import type { Field } from '@/api/client'
import { inputName, term } from '@/lib/words'
import { unitShown } from '@/state/units'
import StateNote from '@/parts/StateNote.vue'

/** Inputs of one calculation, made from its description; numbers may carry a u. */
type Tree = Record<string, unknown>
const props = defineProps<{ fields: Field[]; path: string; withU: boolean; wrong: Record<string, string> }>()
const model = defineModel<Tree>({ required: true })
const u = defineModel<Record<string, string>>('u', { required: true })
const at = (n: string) => (props.path ? `${props.path}.${n}` : n)
const put = (n: string, v: unknown) => {
  const next = { ...model.value }
  if (v === '' || v === undefined) delete next[n]
  else next[n] = v
  model.value = next
}
const title = (f: Field) => inputName(f.name, f.doc)
const hint = (f: Field) =>
  f.default && f.default !== '{}' ? (f.enum?.length ? term(f.default) : f.default) : f.required ? $t('needed') : ''
const flat = computed(() => props.fields.filter((f) => ['number', 'integer', 'string', 'boolean'].includes(f.kind)))
const deep = computed(() => props.fields.filter((f) => f.kind === 'object' || f.kind === 'list'))
const sub = (n: string) => (model.value[n] as Tree | undefined) ?? {}
const list = (f: Field) => {
  const l = (model.value[f.name] as Tree[] | undefined) ?? []
  return f.length && l.length < f.length ? Array.from({ length: f.length }, (_, i) => l[i] ?? {}) : l
}
const putItem = (f: Field, i: number, v: unknown) =>
  put(
    f.name,
    list(f).map((x, k) => (k === i ? v : x)),
  )
const isLong = (f: Field) => f.name === 'csv' || f.name === 'gpx'
</script>

<template>
  <div class="form">
    <label v-for="f in flat" :key="f.name" :class="['field', { wide: isLong(f) }]">
      <span>{{ title(f) }}{{ f.unit ? `, ${unitShown(f.unit)}` : '' }}</span>
      <select
        v-if="f.enum?.length"
        :value="model[f.name] ?? ''"
        :data-input="at(f.name)"
        @change="put(f.name, ($event.target as HTMLSelectElement).value)"
      >
        <option value="">{{ hint(f) || $t('not given') }}</option>
        <option v-for="w in f.enum" :key="w" :value="w">{{ term(w) }}</option>
      </select>
      <select
        v-else-if="f.kind === 'boolean'"
        :value="String(model[f.name] ?? '')"
        @change="
          put(
            f.name,
            ($event.target as HTMLSelectElement).value === ''
              ? ''
              : ($event.target as HTMLSelectElement).value === 'true',
          )
        "
      >
        <option value="">{{ f.default === 'true' ? $t('yes (usual)') : $t('no') }}</option>
        <option value="true">{{ $t('yes') }}</option>
        <option value="false">{{ $t('no') }}</option>
      </select>
      <textarea
        v-else-if="isLong(f)"
        rows="5"
        :value="String(model[f.name] ?? '')"
        :data-input="at(f.name)"
        @change="put(f.name, ($event.target as HTMLTextAreaElement).value)"
      />
      <span v-else class="pair">
        <input
          :class="{ num: f.kind !== 'string' }"
          :inputmode="f.kind === 'string' ? 'text' : 'decimal'"
          :value="model[f.name] ?? ''"
          :placeholder="hint(f)"
          :aria-invalid="Boolean(wrong[at(f.name)])"
          :data-input="at(f.name)"
          @input="put(f.name, ($event.target as HTMLInputElement).value)"
        />
        <input
          v-if="withU && f.kind === 'number'"
          class="num u"
          inputmode="decimal"
          placeholder="u"
          :aria-label="$t('standard uncertainty of {field}', { field: title(f) })"
          :value="u[at(f.name)] ?? ''"
          :data-u="at(f.name)"
          @input="u = { ...u, [at(f.name)]: ($event.target as HTMLInputElement).value }"
        />
      </span>
      <StateNote :error="wrong[at(f.name)]" />
    </label>
    <fieldset v-for="f in deep" :key="f.name">
      <legend>{{ title(f) }}</legend>
      <SumForm
        v-if="f.kind === 'object'"
        v-model:u="u"
        :model-value="sub(f.name)"
        :fields="f.fields ?? []"
        :path="at(f.name)"
        :with-u="withU"
        :wrong="wrong"
        @update:model-value="put(f.name, $event)"
      />
      <template v-else-if="f.items === 'object'">
        <div v-for="(item, i) in list(f)" :key="i" class="item">
          <b class="num">{{ i + 1 }}</b>
          <SumForm
            v-model:u="u"
            :model-value="item"
            :fields="f.fields ?? []"
            :path="`${at(f.name)}.${i}`"
            :with-u="withU"
            :wrong="wrong"
            @update:model-value="putItem(f, i, $event)"
          />
        </div>
        <ActButton v-if="!f.length" @click="put(f.name, [...list(f), {}])">{{ $t('Add one') }}</ActButton>
        <ActButton v-if="!f.length && list(f).length" variant="text" @click="put(f.name, list(f).slice(0, -1))">{{
          $t('Remove the last')
        }}</ActButton>
      </template>
      <label v-else class="field">
        <span class="small">{{
          $t('one a line, or with a comma and a space{unit}', { unit: f.unit ? `, in ${unitShown(f.unit)}` : '' })
        }}</span>
        <textarea
          rows="2"
          :value="((model[f.name] as unknown[]) ?? []).join(', ')"
          @change="
            put(
              f.name,
              ($event.target as HTMLTextAreaElement).value
                .split(/\n|,\s+|;/)
                .map((x) => x.trim())
                .filter(Boolean),
            )
          "
        />
      </label>
    </fieldset>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
  gap: 10px 18px;
  align-items: end;
}
.wide,
fieldset {
  grid-column: 1 / -1;
}
fieldset {
  border: 1px solid var(--line);
  padding: 8px 12px 12px;
  margin: 0;
  min-width: 0;
}
.field > .pair {
  display: flex;
  gap: 6px;
  margin: 0;
}
input.num.u {
  max-width: 76px;
  border-style: dashed;
}
.item {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr);
  gap: 8px;
  border-top: 1px solid var(--line);
  padding: 8px 0;
}
</style>
