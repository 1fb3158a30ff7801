<script setup lang="ts">
import { $t } from '@/lib/say'
import { ref } from 'vue'
import ActButton from '@/parts/ActButton.vue'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'

/** A repair by what was done: it opens again whatever it disturbs. */
const { say } = useInspection()
const { workshop } = useWorkshop()
const ops = ref<string[]>([])
const note = ref('')
async function repair() {
  if (ops.value.length && (await say('repair', { operations: ops.value, note: note.value }))) {
    ops.value = []
    note.value = ''
  }
}
</script>

<template>
  <section class="panel">
    <h2>{{ $t('Record a repair') }}</h2>
    <p class="small">{{ $t('Name what was done; the checks that it disturbs open again.') }}</p>
    <div class="ops">
      <label v-for="o in workshop?.operations" :key="o.id"
        ><input v-model="ops" type="checkbox" :value="o.id" /> {{ o.title }}</label
      >
    </div>
    <label class="field"
      ><span>{{ $t('Note') }}</span
      ><input v-model="note"
    /></label>
    <ActButton :disabled="!ops.length" @click="repair">{{ $t('Save the repair') }}</ActButton>
  </section>
</template>

<style scoped>
.ops input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
.ops {
  columns: 1;
  margin: 8px 0;
  max-height: 260px;
  overflow: hidden auto;
}
.ops label {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 40px;
  font-size: 14px;
}
</style>
