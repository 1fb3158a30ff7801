<script setup lang="ts">
import { $t } from '@/lib/say'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { minutes, term } from '@/lib/words'
import { useWorkshop } from '@/state/workshop'
import GateMark from '@/parts/GateMark.vue'
import PhotoOf from '@/parts/PhotoOf.vue'
import SheetField from '@/parts/SheetField.vue'

/** May it be ridden here; what is missing to know, each with its field; what is wrong and what would make it lawful. */
const props = defineProps<{ advice: Schemas['LawAdvice']; pack: string }>()
const { fieldAt } = useWorkshop()
const open = ref('')
const mark = computed(
  () =>
    ({ in: props.advice.read ? 'open' : 'held', on_paper: 'ajar', doubtful: 'held', out: 'shut' })[
      props.advice.result
    ] ?? 'not_begun',
)
/** Those that the sheet has a field for; lists and recordings have their own place. */
const fields = (paths: string[]) => paths.filter((p) => fieldAt(p) && !['kind', 'equipment', 'traces'].includes(p))
</script>

<template>
  <div class="advice" data-test="law-advice">
    <div class="line">
      <GateMark :state="mark" :size="34" :label="advice.answer" />
      <p class="answer" data-test="law-answer-now">{{ advice.answer }}</p>
    </div>
    <p class="small">
      <RouterLink :to="`/law/${pack}`" :class="{ attend: !advice.read }" data-test="law-read">{{
        advice.review
      }}</RouterLink>
    </p>
    <p v-for="n in advice.notes" :key="n" class="small attend" data-test="law-note">{{ n }}</p>
    <template v-if="advice.law.length">
      <h3>{{ $t('Asked of the law, once for all vehicles') }}</h3>
      <ul class="plainlist">
        <li v-for="q in advice.law" :key="q">
          {{ q }} <RouterLink :to="`/law/${pack}`">{{ $t('read it') }}</RouterLink>
        </li>
      </ul>
    </template>
    <template v-if="advice.missing.length">
      <h3>{{ $t('Missing to know') }}</h3>
      <ol class="plainlist" data-test="law-missing">
        <li v-for="m in advice.missing" :key="m.what">
          <button
            v-if="fields(m.paths).length"
            type="button"
            class="plain"
            :aria-expanded="open === m.what"
            :data-law-ask="m.paths[0]"
            @click="open = open === m.what ? '' : m.what"
          >
            {{ m.what }}: {{ m.question }} ({{ minutes(m.minutes) }})
          </button>
          <template v-else>{{ m.what }}: {{ m.question }} ({{ minutes(m.minutes) }})</template>
          <div v-if="open === m.what" class="fields">
            <SheetField v-for="p in fields(m.paths)" :key="p" :path="p" />
            <PhotoOf
              v-for="p in m.paths.filter((x) => x.endsWith('.rating_w'))"
              :key="`${p} photo`"
              :path="p"
              :caption="$t('maker’s sheet')"
            />
          </div>
        </li>
      </ol>
    </template>
    <p v-if="advice.settles.length" class="small" data-test="law-settles">
      {{
        $t(
          'Or a paper of the model settles what is open, while drive and controller are as their maker built them: {papers}.',
          {
            papers: advice.settles.map(term).join(', '),
          },
        )
      }}
    </p>
    <template v-if="advice.wrong.length">
      <h3>{{ $t('Not met') }}</h3>
      <ul class="plainlist">
        <li v-for="w in advice.wrong" :key="w.what" class="stop">{{ w.fault }}</li>
      </ul>
    </template>
    <template v-if="advice.changes.length">
      <h3>{{ $t('The smallest change that was tried and passes') }} ({{ minutes(advice.minutes) }})</h3>
      <ul class="plainlist" data-test="law-changes">
        <li v-for="c in advice.changes" :key="c">{{ c }}</li>
      </ul>
      <p v-if="advice.then.length" class="small">
        {{ $t('Then measure: {then}.', { then: advice.then.join(', ') }) }}
      </p>
    </template>
    <template v-if="advice.papers.length">
      <h3>{{ $t('Papers that are missing') }}</h3>
      <ul class="plainlist" data-test="law-papers">
        <li v-for="p in advice.papers" :key="p.kind">{{ p.words }}</li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.advice {
  display: grid;
  gap: 4px;
  padding: 10px 0 14px;
}
.line {
  display: flex;
  gap: 12px;
  align-items: center;
}
.answer {
  font-size: 19px;
  font-weight: 700;
  margin: 0;
}
h3 {
  margin: 8px 0 0;
}
.plainlist {
  margin: 0;
  padding-left: 20px;
}
.plainlist .plain {
  text-align: left;
  min-height: 44px;
}
</style>
