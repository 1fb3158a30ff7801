<script setup lang="ts">
import { computed } from 'vue'
import { term } from '@/lib/words'
import { $t } from '@/lib/say'
import SheetList from '@/parts/SheetList.vue'
import { useInspection } from '@/state/inspection'

/** What the sheet lists beside its parts: makeshifts with what ends them, altered places, lamps, outlets, settings and limits. */
const { view } = useInspection()
const several = computed(() => (view.value?.sheet.drives ?? []).length > 1)
const word = (v: unknown) => term(String(v ?? ''))
const quoted = (v: unknown) => `“${String(v ?? '')}”`
</script>

<template>
  <SheetList
    list="makeshifts"
    :title="$t('Makeshifts')"
    :hint="$t('taped pack, loose bracket, film over a joint; one that matters for safety holds the gate')"
    :name="(m) => String(m.what)"
    :fields="['ends', 'holds', 'safety', 'ended']"
    :typed="{ field: 'what', label: $t('Another makeshift'), test: 'makeshift' }"
  />
  <SheetList
    list="altered"
    :title="$t('Welded, brazed or drilled')"
    :hint="
      $t(
        'by somebody else than the frame’s maker; a frame builder’s paper for this frame, and a photo of it by a second person',
      )
    "
    :name="(a, i) => (a.where && a.how ? `${word(a.where)}, ${word(a.how)}` : $t('Place {n}', { n: i + 1 }))"
    :fields="['where', 'how', 'paper', 'builder', 'paper_on', 'paper_number']"
    :adds="[{ label: $t('Add a place'), item: {}, test: 'add-altered' }]"
    test="altered"
  />
  <SheetList
    list="lights"
    :title="$t('Lights')"
    :hint="$t('those fed by a pack or a controller; lamps with their own cell do not count')"
    :name="(_, i) => $t('Light {n}', { n: i + 1 })"
    :fields="['place', 'w', 'v']"
    :adds="[
      { label: $t('Add front light'), item: { place: 'front' }, test: 'light-front' },
      { label: $t('Add rear light'), item: { place: 'rear' }, test: 'light-rear' },
    ]"
  />
  <SheetList
    list="outlets"
    :title="$t('Outlets')"
    :hint="$t('for a telephone, a heated grip, a trailer’s lamp: its load against its fuse')"
    :name="(o) => String(o.what)"
    :fields="['at', 'load_a', 'rated_a', 'live']"
    :typed="{ field: 'what', label: $t('Another outlet: what it feeds'), test: 'outlet' }"
  />
  <SheetList
    list="settings"
    :title="$t('Settings')"
    :hint="$t('as found and as left; what is left otherwise is work to be written down')"
    :name="(s) => String(s.name)"
    :fields="['found', 'left', 'how']"
    :typed="{ field: 'name', label: $t('Another setting'), test: 'setting' }"
  />
  <SheetList
    list="restrictions"
    :title="$t('Power or speed limited')"
    :hint="
      $t(
        'a loop wire, a setting, a plug: it counts once it is proven, out of the rider\'s reach, and fails to the lower limit',
      )
    "
    :name="(r) => $t('{of} limit', { of: word(r.of) })"
    :fields="[...(several ? ['drive'] : []), 'how', 'cycle', 'kept', 'fails']"
    :adds="
      ['power', 'speed', 'throttle'].map((of) => ({
        label: $t('Add a {of} limit', { of: word(of) }),
        item: { of },
        test: `hold-${of}`,
      }))
    "
    test="restrictions"
  />
  <SheetList
    list="word_limits"
    :title="$t('Verbal limits')"
    :hint="$t('“never first gear”: a limit only if a stop, a setting or a label holds it')"
    :name="(l) => quoted(l.words)"
    :fields="['held_by']"
    :typed="{ field: 'words', label: $t('Another limit'), test: 'word-limit' }"
  />
</template>
