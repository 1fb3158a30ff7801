<script setup lang="ts">
/** A button: outlined, filled for what one is here for, or as underlined words. */
withDefaults(defineProps<{ variant?: 'outlined' | 'flat' | 'text'; type?: 'button' | 'submit'; block?: boolean }>(), {
  variant: 'outlined',
  type: 'button',
})
</script>

<template>
  <button :type="type" :class="['act', variant, { block }]"><slot /></button>
</template>

<style scoped>
.act {
  min-height: 46px;
  padding: 0 16px;
  border: 1px solid var(--ink);
  border-radius: 3px;
  background: transparent;
  color: var(--ink);
  font: 600 15px/1.2 var(--words);
  cursor: pointer;
}
.flat {
  border-color: var(--button);
  background: var(--button);
  color: var(--button-ink);
}
.text {
  border-color: transparent;
  padding: 0 6px;
  text-decoration: underline;
  text-decoration-color: var(--line);
  text-underline-offset: 5px;
}
.block {
  width: 100%;
}
.act:disabled {
  opacity: 0.5;
  cursor: default;
}
</style>
