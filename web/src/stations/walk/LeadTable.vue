<script setup lang="ts">
import { computed } from 'vue'
import { useInspection } from '@/app/inspection'
import { without } from '@/app/sheet'
import { withUnit } from '@/app/words'
import SheetField from '@/parts/SheetField.vue'

/** The power leads of the vehicle: from where, how long, how thick, and what guards them. */
const { view, check, set, locked } = useInspection()
const packs = computed(() => view.value?.sheet.packs ?? [])
const leads = computed(() => view.value?.sheet.leads ?? [])
const fields = (i: number): [string, string][] =>
  (
    [
      ['length_m', 'length, one way'],
      ['area_mm2', 'copper'],
      ['awg', 'or American gauge'],
      ['connector_a', 'weakest plug'],
      ['fuse_a', 'fuse'],
      ['fuse_v', 'fuse, direct-current volts'],
      ['fuse_break_a', 'fuse breaks up to'],
    ] as const
  ).map(([k, t]) => [`given.wire_run_${i}.${k}`, t])
const run = (i: number) => check(`wire.run.${i}`)
const sums = (i: number) => (run(i)?.judged ?? []).filter((j) => j.value !== null)

const add = () =>
  set(
    `leads.${leads.value.length}`,
    leads.value.length < packs.value.length
      ? { name: `pack ${leads.value.length + 1} to controller`, pack: leads.value.length }
      : { name: 'behind the controller' },
  )
/** The last of the list goes, with what was measured of it: the others keep their numbers. */
async function takeOff() {
  const i = leads.value.length - 1
  if (view.value?.sheet.given && `wire_run_${i}` in (view.value.sheet.given as object))
    await set(`given.wire_run_${i}`, null)
  await set('leads', without(leads.value, i))
}
</script>

<template>
  <section class="panel" data-test="leads">
    <header>
      <h2>Power leads</h2>
      <span class="small">each pack's own lead with its fuse, and those behind the controller</span>
    </header>
    <div v-for="(l, i) in leads" :key="i" class="lead">
      <div class="fields">
        <SheetField :path="`leads.${i}.name`" />
        <SheetField :path="`leads.${i}.pack`" title="from pack, counted from 0" />
        <SheetField v-for="[p, t] in fields(i)" :key="p" :path="p" :title="t" />
      </div>
      <p v-if="sums(i).length" class="small" role="status">
        <span v-for="j in sums(i)" :key="j.output + j.severity" :class="{ stop: j.result === 'fail' }">
          {{ j.words }}: {{ withUnit(j.value, j.unit) }}<template v-if="j.result === 'fail'">, fails</template>.
        </span>
      </p>
      <p v-else-if="run(i)?.needs.length" class="small">
        {{ l.name }} still lacks:
        {{
          run(i)!
            .needs.map((n) => n.title)
            .join(', ')
        }}.
      </p>
    </div>
    <p v-if="!leads.length" class="small">
      No lead is listed. A pack without a lead and a fuse cannot pass; where no rating can be found on the fuse, leave
      it empty: it stays open.
    </p>
    <div v-if="!locked" class="acts">
      <VBtn data-test="add-lead" @click="add">{{ leads.length ? 'Another lead' : 'There is a lead' }}</VBtn>
      <VBtn v-if="leads.length" variant="text" @click="takeOff"
        >Take “{{ leads[leads.length - 1]!.name }}” off the list</VBtn
      >
    </div>
  </section>
</template>

<style scoped>
.lead {
  border-top: 1px solid var(--line);
  padding: 10px 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
