<script setup lang="ts">
import AppDialog from '@/parts/AppDialog.vue'
import ActButton from '@/parts/ActButton.vue'
import { keysOn, type Key } from '@/lib/keys'
import { shade, textSize, units } from '@/state/session'

defineProps<{ keys: Key[] }>()
const open = defineModel<boolean>({ required: true })
</script>

<template>
  <button type="button" class="plain" data-test="display" aria-haspopup="dialog" @click="open = true">
    {{ $t('Display, keys') }}
  </button>
  <AppDialog v-model="open" max-width="520" :aria-label="$t('Display and keys')">
    <div class="sheet">
      <h2>{{ $t('Display and keys') }}</h2>
      <label class="turn"
        ><input v-model="keysOn" type="checkbox" data-test="keys-on" />
        {{ $t('single-letter shortcuts (turn them off for tools that type like a keyboard)') }}</label
      >
      <ul v-if="keysOn" class="rows">
        <li v-for="k in keys" :key="k.key">
          <kbd>{{ k.key }}</kbd> {{ k.does }}
        </li>
      </ul>
      <label class="field">
        <span>{{ $t('Light') }}</span>
        <select v-model="shade">
          <option value="auto">{{ $t('Follow system') }}</option>
          <option value="light">{{ $t('light paper') }}</option>
          <option value="dark">{{ $t('dark workshop') }}</option>
        </select>
      </label>
      <label class="field">
        <span>{{ $t('Size of text and controls') }}</span>
        <select v-model.number="textSize" data-test="text-size">
          <option :value="1">{{ $t('as designed') }}</option>
          <option :value="1.15">{{ $t('larger') }}</option>
          <option :value="1.3">{{ $t('largest') }}</option>
        </select>
      </label>
      <label class="field">
        <span>{{ $t('Units') }}</span>
        <select v-model="units" data-test="units">
          <option value="metric">{{ $t('metric') }}</option>
          <option value="us">{{ $t('US customary (in, lbf·ft, mph, lb, °F)') }}</option>
        </select>
      </label>
      <ActButton class="close" variant="flat" @click="open = false">{{ $t('Close') }}</ActButton>
    </div>
  </AppDialog>
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
.turn {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}
.turn input {
  width: 22px;
  height: 22px;
  accent-color: var(--jade);
}
.close {
  margin-top: 14px;
}
</style>
