<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref } from 'vue'
import { useRoute, useRouter, type RouteLocationRaw } from 'vue-router'
import { provideInspection } from '@/state/inspection'
import { offered, undo } from '@/state/undo'
import { useKeys } from '@/lib/keys'
import { checkPlace, gatePlace } from '@/lib/places'
import { show } from '@/lib/show'
import HeldEntries from '@/parts/HeldEntries.vue'
import GateRail from '@/parts/GateRail.vue'
import KeyHelp from '@/parts/KeyHelp.vue'
import TopStrip from '@/parts/TopStrip.vue'
import StateNote from '@/parts/StateNote.vue'

const props = defineProps<{ id: string }>()
const it = provideInspection(props.id)
const router = useRouter()
const route = useRoute()
const help = ref(false)

const params = { id: props.id }
const go = (to: RouteLocationRaw) => () => void router.push(to)
const keys = useKeys([
  { key: 'b', does: $t('day board'), run: go({ name: 'board' }) },
  { key: '1', does: 'intake', run: go(gatePlace(props.id, 1)) },
  { key: '2', does: $t('walk-round of frame and axle'), run: go(gatePlace(props.id, 2)) },
  { key: '3', does: $t('torque ledger'), run: go(gatePlace(props.id, 3)) },
  ...[4, 5, 7, 8].map((g) => ({
    key: String(g),
    does: $t('gate {gate}', { gate: g }),
    run: go(gatePlace(props.id, g)),
  })),
  { key: '6', does: $t('cutoff bench'), run: go(gatePlace(props.id, 6)) },
  { key: '9', does: 'verdict', run: go(gatePlace(props.id, 9)) },
  { key: 'a', does: $t('axle bench'), run: go({ name: 'axle', params }) },
  { key: 'm', does: $t('mid-drive bench'), run: go({ name: 'mid', params }) },
  { key: 'n', does: $t('next open check'), run: next },
  { key: '?', does: $t('these keys'), run: () => (help.value = !help.value) },
])

/** Goes to the first check that is still open, in the order of the work. */
function next() {
  const checks = it.evaluation.value?.checks ?? []
  const c = checks.find((x) => x.outcome === 'open') ?? checks.find((x) => x.outcome === 'doubtful')
  const to = router.resolve(c ? checkPlace(props.id, c) : gatePlace(props.id, 9))
  if (c && to.fullPath === route.fullPath)
    show(document.querySelector<HTMLElement>(`[data-check="${CSS.escape(c.id)}"] .line`))
  else void router.push(to)
}
const fresh = computed(() => route.fullPath.split('?')[0])
</script>

<template>
  <div class="frame">
    <a class="sr skip" href="#work">{{ $t('Skip to main content') }}</a>
    <GateRail />
    <div class="right">
      <TopStrip @next="next"><KeyHelp v-model="help" :keys="keys" /></TopStrip>
      <main id="work" tabindex="-1">
        <StateNote :error="it.problem.value" data-test="problem" />
        <p v-if="it.away.value" class="caution" role="status">
          {{
            $t(
              'The server cannot be reached. What you enter is kept in this browser and sent, in order, when it is back.',
            )
          }}
        </p>
        <HeldEntries />
        <p v-if="offered" class="caution undo" role="status" data-test="undo">
          {{ offered.words }} <ActButton variant="text" @click="undo">{{ $t('Undo') }}</ActButton>
        </p>
        <p v-if="it.view.value?.signed" class="caution" role="status">
          {{
            $t('Signed by {name} and locked. A further visit is a new inspection.', {
              name: it.view.value.signed.what.name,
            })
          }}
        </p>
        <RouterView v-if="it.view.value" :key="fresh" />
        <StateNote
          v-else
          :error="
            it.missing.value
              ? $t('There is no inspection at this address, or it was not shared with you.')
              : it.refused.value || null
          "
          :loading="$t('Reading the log…')"
        />
      </main>
    </div>
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  min-height: 100vh;
}
.right {
  flex: 1;
  min-width: 0;
}
main {
  padding: 16px 20px 24px;
  display: grid;
  gap: 14px;
}
main:focus {
  outline: none;
}
.undo {
  position: fixed;
  left: 132px;
  bottom: 84px;
  z-index: 30;
  border: 1px solid var(--line);
}
.skip:focus {
  clip-path: none;
  width: auto;
  height: auto;
  z-index: 10;
  background: var(--paper);
  padding: 8px;
}
@media (max-width: 760px) {
  .frame {
    flex-direction: column;
  }
  main {
    padding: 12px;
  }
}
</style>
