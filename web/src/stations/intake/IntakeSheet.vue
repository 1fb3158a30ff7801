<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useInspection } from '@/app/inspection'
import CheckLine from '@/parts/CheckLine.vue'
import HeldBy from '@/parts/HeldBy.vue'
import SheetField from '@/parts/SheetField.vue'

const { view, evaluation } = useInspection()
const route = useRoute()
const picked = ref<string | null>(null)
watch(
  () => route.query.check,
  (c) => {
    if (typeof c === 'string') picked.value = c
  },
  { immediate: true },
)

interface Group {
  title: string
  fields: [path: string, title?: string][]
}
const groups = computed<Group[]>(() => {
  const s = view.value?.sheet
  if (!s) return []
  const out: Group[] = [
    {
      title: 'Vehicle',
      fields: [
        ['name', 'name'],
        ['kind', 'wheels'],
        ['frame_number'],
        ['colour', 'colour'],
        ['sister', 'sister vehicle'],
        ['fork.suspension_cast', 'front dropouts cast into a suspension fork'],
      ],
    },
    {
      title: 'Claims and use',
      fields: [
        ['claims.power_w'],
        ['claims.top_speed_kmh'],
        ['claims.range_km'],
        ['use.rider_kg'],
        ['use.load_kg'],
        ['use.rented', 'lent out'],
      ],
    },
  ]
  ;(s.drives ?? []).forEach((d, i) => {
    const at = `drives.${i}.`
    out.push({
      title: `Motor, ${d.kind.replaceAll('_', ' ')}`,
      fields: [
        [`${at}kit`, 'kit'],
        [`${at}label_w`],
        [`${at}declared_peak_nm`],
        [`${at}battery_limit_a`],
        [`${at}phase_limit_a`],
        [`${at}spin_rpm`],
        [`${at}spin_v`],
        [`${at}regen`],
        [`${at}system_v`],
      ],
    })
  })
  out.push({
    title: 'Brakes and controls',
    fields: [
      ['throttle'],
      ...(['left', 'right'] as const).flatMap((side): [string, string][] => [
        [`levers.${side}.fitted`, `${side} lever fitted`],
        [`levers.${side}.switch`, `${side} cutoff switch`],
        [`levers.${side}.works`, `${side} works`],
        [`levers.${side}.bite_mm`, `${side} travel at the pads' bite`],
      ]),
    ],
  })
  out.push({
    title: 'Wheels, for the drawing and the brakes',
    fields: (['front', 'rear'] as const).flatMap((w): [string, string][] => [
      [`${w}.bsd_mm`, `${w} rim, bead seat`],
      [`${w}.tyre_mm`, `${w} tyre width`],
      [`${w}.brake`, `${w} brake`],
    ]),
  })
  return out
})
const checks = computed(() => evaluation.value?.checks.filter((c) => c.gate === 1) ?? [])
</script>

<template>
  <div v-if="view" class="station intake">
    <div class="left">
      <section v-for="g in groups" :key="g.title" class="panel">
        <h2>{{ g.title }}</h2>
        <div class="fields">
          <SheetField v-for="[path, title] in g.fields" :key="path" :path="path" :title="title" />
        </div>
      </section>
    </div>
    <div class="side">
      <section class="panel">
        <h2>Checks of the intake</h2>
        <ul class="rows checks">
          <CheckLine
            v-for="c in checks"
            :key="c.id"
            :c="c"
            :picked="picked === c.id"
            @pick="picked = picked === c.id ? null : c.id"
          />
        </ul>
      </section>
      <HeldBy />
    </div>
  </div>
</template>

<style scoped>
.intake {
  --side: 400px;
}
.fields {
  margin: 8px 0;
}
</style>
