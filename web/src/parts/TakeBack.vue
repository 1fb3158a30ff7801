<script setup lang="ts">
import { ref } from 'vue'
import { useInspection } from '@/state/inspection'
import { who } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import StateNote from './StateNote.vue'

/** Takes an entry back, with a reason. It stays in the log; it counts no longer. */
const props = defineProps<{ entry: string; what: string }>()
const { say, locked, problem } = useInspection()
const { workshop } = useWorkshop()
const asking = ref(false)
const reason = ref('')
const second = ref('')
const slip = ref(false)
const wrong = ref('')
async function back() {
  if (!reason.value.trim()) {
    wrong.value = 'Say in a few words why it is taken back.'
    return
  }
  wrong.value = ''
  if (
    await say('correct', {
      entry: props.entry,
      reason: reason.value.trim(),
      ...(second.value ? { second: second.value } : {}),
      ...(slip.value ? { slip: true } : {}),
    })
  ) {
    asking.value = false
    reason.value = ''
  } else wrong.value = problem.value ?? ''
}
</script>

<template>
  <button v-if="!asking" type="button" class="plain" :disabled="locked" data-test="take-back" @click="asking = true">
    Take back<span class="sr"> {{ what }}</span>
  </button>
  <form v-else class="back" @submit.prevent="back">
    <label class="field"
      ><span>Why is {{ what }} taken back? It stays in the log.</span><input v-model="reason" data-test="take-back-why"
    /></label>
    <label class="field second"
      ><span>A bad result ends only with a second person</span>
      <select v-model="second" data-test="take-back-second">
        <option value="">nobody else looked</option>
        <option v-for="p in workshop?.people.filter((x) => x.name !== who)" :key="p.name" :value="p.name">
          {{ p.name }}, {{ p.role }}
        </option>
      </select></label
    >
    <label class="slip"><input v-model="slip" type="checkbox" /> a slip of the finger just now</label>
    <VBtn type="submit" data-test="take-back-ok">Take it back</VBtn>
    <VBtn variant="text" @click="asking = false">Leave it</VBtn>
    <StateNote :error="wrong" />
  </form>
</template>

<style scoped>
.back {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: end;
}
.back .field {
  flex: 1 1 220px;
}
</style>
