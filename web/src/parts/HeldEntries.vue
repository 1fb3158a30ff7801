<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { useInspection } from '@/state/inspection'
import type { Held } from '@/state/keep'
import { settle, topic } from '@/state/outbox'
import { useWorkshop } from '@/state/workshop'
import { clock, term } from '@/lib/words'

/** Entries that were not taken: what others said meanwhile, or why it was refused. */
const { held, check } = useInspection()
const { titleAt } = useWorkshop()

function about(h: Held): string {
  const [kind, what] = topic(h.item.entry.kind, h.item.entry.body).split(' ')
  if (kind === 'set') return titleAt(what!)
  return check(what ?? '')?.title ?? kind!
}
/** What an entry says, in a word or a figure. */
function said(body: unknown): string {
  const b = body as { value?: unknown; result?: string; reason?: string }
  const v = b.value as { value?: unknown } | unknown
  const plain = v && typeof v === 'object' && 'value' in v ? v.value : v
  if (b.result) return `${term(b.result)}${b.reason ? `: ${b.reason}` : ''}`
  if (plain === null || plain === undefined) return $t('nothing there')
  return typeof plain === 'object' ? $t('a list') : String(plain)
}
</script>

<template>
  <section v-for="h in held" :key="h.item.key" class="caution held" role="alert" data-test="held">
    <template v-if="h.theirs.length">
      <p>
        <b>{{ about(h) }}</b>{{ $t(': while yours waited,') }}
        <template v-for="e in h.theirs" :key="e.id"
          >{{ $t('{by} said', { by: e.by }) }} <b>{{ e.kind === 'sign' ? $t('signed') : said(e.body) }}</b>
          {{ $t('at {at}.', { at: clock(e.at) }) + ' ' }}
        </template>
        {{ $t('Yours says') }} <b>{{ said(h.item.entry.body) }}</b>.
      </p>
      <span>
        <ActButton data-test="keep-mine" @click="settle(h, 'mine')">{{ $t('Send mine too') }}</ActButton>
        <ActButton variant="text" data-test="keep-theirs" @click="settle(h, 'theirs')">{{
          $t('Keep theirs')
        }}</ActButton>
      </span>
    </template>
    <template v-else>
      <p>
        <b>{{ about(h) }}</b>{{
          $t(', {body}, was not taken: {refused}', { body: said(h.item.entry.body), refused: h.refused })
        }}
      </p>
      <span>
        <ActButton data-test="send-again" @click="settle(h, 'mine')">{{ $t('Send it again') }}</ActButton>
        <ActButton variant="text" @click="settle(h, 'theirs')">{{ $t('I have seen it') }}</ActButton>
      </span>
    </template>
  </section>
</template>

<style scoped>
.held {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  justify-content: space-between;
}
.held p {
  flex: 1 1 300px;
}
</style>
