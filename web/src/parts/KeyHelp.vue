<script setup lang="ts">
import type { Key } from '@/lib/keys'
import { shade, units } from '@/state/session'

defineProps<{ keys: Key[] }>()
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <VDialog v-model="open" max-width="520" aria-label="Keys, light and units">
    <div class="sheet">
      <h2>Keys</h2>
      <ul class="rows">
        <li v-for="k in keys" :key="k.key">
          <kbd>{{ k.key }}</kbd> {{ k.does }}
        </li>
      </ul>
      <label class="field">
        <span>Light</span>
        <select v-model="shade">
          <option value="auto">as the machine has it</option>
          <option value="light">light paper</option>
          <option value="dark">dark workshop</option>
        </select>
      </label>
      <label class="field">
        <span>Units</span>
        <select v-model="units" data-test="units">
          <option value="metric">metric</option>
          <option value="us">US customary (in, lbf·ft, mph, lb, °F)</option>
        </select>
      </label>
      <VBtn class="close" variant="flat" @click="open = false">Close</VBtn>
    </div>
  </VDialog>
</template>

<style scoped>
ul {
  columns: 2;
  margin: 8px 0 14px;
}
li {
  break-inside: avoid;
}
kbd {
  display: inline-block;
  min-width: 30px;
  text-align: center;
  border: 1px solid var(--ink);
  border-radius: 3px;
  font: 600 15px/1.6 var(--figures);
  margin-right: 10px;
}
.close {
  margin-top: 14px;
}
</style>
