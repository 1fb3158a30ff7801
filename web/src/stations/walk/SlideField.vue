<script setup lang="ts">
/** A slider with its words: least, most and step of what it can be. */
defineOptions({ inheritAttrs: false })
const value = defineModel<number>({ required: true })
defineProps<{ words: string; of: [number, number, number] }>()
</script>

<template>
  <label>
    <span class="small">{{ words }}</span>
    <input v-model.number="value" type="range" :min="of[0]" :max="of[1]" :step="of[2]" v-bind="$attrs" />
  </label>
</template>

<style scoped>
label {
  display: block;
}
input {
  width: 100%;
  min-height: 40px;
  accent-color: var(--jade);
}
</style>
