<script setup lang="ts">
import { ref, useId } from 'vue'
import { names, terms, type Term } from '@/lib/terms'

/** A word of the trade of measuring, explained where it stands: by a touch, a key or a click. */
defineProps<{ term: Term; words?: string }>()
const open = ref(false)
const said = useId()
</script>

<template>
  <button type="button" class="term" :aria-expanded="open" :aria-controls="said" @click="open = !open">
    {{ words ?? names[term] }}</button><span v-show="open" :id="said" class="said" role="note"> {{ terms[term] }}</span>
</template>

<style scoped>
.term {
  padding: 2px 0;
  border: 0;
  border-bottom: 2px dotted var(--copper);
  background: transparent;
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.said {
  font-size: 13.5px;
  font-weight: 400;
  color: var(--ink);
}
</style>
