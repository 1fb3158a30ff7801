<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import { useInspection } from '@/state/inspection'
import { at, plain, without } from '@/lib/sheet'
import { offerUndo } from '@/state/undo'

/** Removes one item of a list of the sheet: names what goes, asks once, and can be undone. */
const props = defineProps<{ list: string; index: number; what: string; test?: string }>()
const emit = defineEmits<{ removed: [] }>()
const { view, set, settled, locked, problem } = useInspection()
const asking = ref(false)
/** Who removes by a key is asked here. */
defineExpose({ ask: () => (asking.value = true) })
/** How much was said of it. */
const facts = computed(() => {
  const count = (v: unknown): number =>
    v === null || typeof v !== 'object'
      ? 0
      : 'source' in v && (v as { value?: unknown }).value != null && (v as { source?: string }).source
        ? 1
        : Object.values(v).reduce((n: number, x) => n + count(x), 0)
  return count(at(view.value?.sheet, `${props.list}.${props.index}`))
})
async function remove() {
  if (!(await settled(props.list))) return
  const before = (at(view.value?.sheet, props.list) as unknown[]) ?? []
  const had = plain(before)
  asking.value = false
  if (!(await set(props.list, without(before, props.index)))) return
  offerUndo($t('{what} removed.', { what: props.what }), () => set(props.list, had))
  emit('removed')
}
</script>

<template>
  <button v-if="!locked && !asking" type="button" class="plain" :data-test="test" @click="asking = true">
    {{ $t('Remove {what}', { what }) }}
  </button>
  <span v-else-if="asking" class="ask" role="alert">
    {{
      $t('Remove {what}{facts}?', {
        what,
        facts: facts
          ? facts === 1
            ? $t(', with 1 thing recorded about it')
            : $t(', with {n} things recorded about it', { n: facts })
          : '',
      })
    }}
    <ActButton :data-test="test && `${test}-ok`" @click="remove">{{ $t('Remove') }}</ActButton>
    <ActButton variant="text" @click="asking = false">{{ $t('Cancel') }}</ActButton>
    <span v-if="problem" class="stop">{{ problem }}</span>
  </span>
</template>

<style scoped>
.ask {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
</style>
