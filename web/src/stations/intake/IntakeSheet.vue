<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useInspection } from '@/state/inspection'
import { useWorkshop } from '@/state/workshop'
import CheckList from '@/parts/CheckList.vue'
import HeldBy from '@/parts/HeldBy.vue'
import RemoveThis from '@/parts/RemoveThis.vue'
import SheetField from '@/parts/SheetField.vue'
import IntakeLists from './IntakeLists.vue'
import IntakeMotors from './IntakeMotors.vue'
import IntakePhotos from './IntakePhotos.vue'
import WhatChanged from './WhatChanged.vue'
import { cargoFields, packFields, partsOf } from './parts'
import SheetList from '@/parts/SheetList.vue'

/** The intake in parts. First stands what is missing, whatever part it is of. */
const { id, view, evaluation, set, add, locked } = useInspection()
const { fieldAt } = useWorkshop()
const route = useRoute()
const router = useRouter()
const parts = computed(() => (view.value ? partsOf(view.value.sheet) : []))
const packs = computed(() => view.value?.sheet.packs ?? [])

/** Every path that a check, or the list of what there is not, waits for. */
const wanted = computed(() => {
  const paths = new Set((evaluation.value?.checks ?? []).flatMap((c) => c.needs.map((n) => n.path)))
  for (const l of view.value?.lacks ?? []) if (!l.known) paths.add(l.path)
  return paths
})
/** What was missing while this page is open stays where it was given. */
const seen = ref(new Set<string>())
watch(
  wanted,
  (w) => {
    if ([...w].some((p) => !seen.value.has(p))) seen.value = new Set([...seen.value, ...w])
  },
  { immediate: true },
)
const missing = computed(() =>
  parts.value
    .flatMap((p) => p.groups)
    .map((g) => ({ ...g, fields: g.fields.filter(([path]) => seen.value.has(path)) }))
    .filter((g) => g.fields.length),
)
const left = (fields: { groups: { fields: [string, ...unknown[]][] }[] }) =>
  fields.groups.flatMap((g) => g.fields).filter(([path]) => wanted.value.has(path)).length
const tabs = computed(() => {
  const list = parts.value.map((p) => ({ id: p.id, name: p.name, left: left(p) }))
  list.splice(1, 0, { id: 'photos', name: $t('Photos'), left: 0 })
  return [{ id: '', name: $t('Missing'), left: list.reduce((n, t) => n + t.left, 0) }, ...list]
})
const part = computed(() => (typeof route.query.part === 'string' ? route.query.part : ''))
const shown = computed(() => parts.value.find((p) => p.id === part.value))
const choose = (p: string) => void router.replace({ query: { ...route.query, part: p || undefined } })

/** Plain facts that nobody has said yet: those that are not there are denied in one go, as a list that is read. */
const unsaid = computed(() => (view.value?.lacks ?? []).filter((l) => !l.known && fieldAt(l.path)?.kind === 'boolean'))
async function noneOfThem() {
  for (const l of unsaid.value) await set(l.path, false)
}
const checks = computed(() => evaluation.value?.checks.filter((c) => c.gate === 1) ?? [])
</script>

<template>
  <div v-if="view" class="station intake">
    <div class="left">
      <section v-if="view.contradictions.length" class="panel cross" data-test="contradictions">
        <h2>{{ $t('These entries contradict each other') }}</h2>
        <ul class="rows">
          <li v-for="c in view.contradictions" :key="c.words" class="stop">{{ c.words }}</li>
        </ul>
      </section>
      <section v-if="view.unsigned_before.length" class="panel cross">
        <h2>{{ $t('Earlier inspections') }}</h2>
        <p>
          {{
            $t('{view} was never signed. What was found there still stands here until new evidence clears it.', {
              view: view.unsigned_before.join(', '),
            })
          }}
        </p>
      </section>
      <nav class="parts" :aria-label="$t('Parts of the intake')">
        <button
          v-for="t in tabs"
          :key="t.id"
          type="button"
          :aria-current="t.id === part ? 'true' : undefined"
          :data-part-of="t.id || 'missing'"
          @click="choose(t.id)"
        >
          {{ t.name }}<span v-if="t.left" class="num">{{ t.left }}</span>
        </button>
      </nav>

      <template v-if="!part">
        <IntakePhotos />
        <p v-if="!missing.length" class="panel">{{ $t('The intake has everything that the checks need.') }}</p>
        <section v-for="g in missing" :key="g.title" class="panel">
          <h2>{{ g.title }}</h2>
          <div class="fields">
            <SheetField v-for="[path, title, also] in g.fields" :key="path" :path="path" :title="title" :also="also" />
          </div>
        </section>
      </template>
      <IntakePhotos v-else-if="part === 'photos'" />
      <IntakeMotors v-else-if="part === 'motors'" />
      <IntakeLists v-else-if="part === 'words'" />
      <WhatChanged v-else-if="part === 'changed'" />
      <template v-else-if="part === 'packs'">
        <section v-for="(_, i) in packs" :key="i" class="panel">
          <header>
            <h2>{{ $t('Battery {n}', { n: i + 1 }) }}</h2>
            <RemoveThis list="packs" :index="i" :what="$t('battery {n}', { n: i + 1 })" :test="`remove-pack-${i}`" />
          </header>
          <div class="fields">
            <SheetField v-for="[path] in packFields(view.sheet, i)" :key="path" :path="path" />
          </div>
        </section>
        <SheetList
          v-if="packs.length > 1"
          list="combiners"
          :title="$t('Combiners')"
          :hint="$t('each at what flows through it; the leads say where it stands')"
          :name="(_, i) => $t('Combiner {n}', { n: i + 1 })"
          :fields="['rated_a', 'fixed', 'opening']"
          :adds="[{ label: $t('Add a combiner'), item: {}, test: 'add-combiner' }]"
          test="combiners"
        />
        <SheetList
          list="chargers"
          :title="$t('Chargers')"
          :hint="$t('where there are several: each against the pack that it serves')"
          :name="(_, i) => $t('Charger {n}', { n: i + 1 })"
          :fields="['number', 'v', 'a', 'pack']"
          :adds="[{ label: $t('Add a charger'), item: {}, test: 'add-charger' }]"
          test="chargers"
        />
      </template>
      <template v-else>
        <section v-for="g in shown?.groups" :key="g.title" class="panel">
          <header>
            <h2>{{ g.title }}</h2>
            <span v-if="part === 'measures'" class="small">{{ $t('empty fields are drawn at a usual size') }}</span>
          </header>
          <div class="fields">
            <SheetField v-for="[path, title, also] in g.fields" :key="path" :path="path" :title="title" :also="also" />
          </div>
        </section>
      </template>

      <SheetList
        v-if="part === 'controls' && view.sheet.throttle?.value !== 'none'"
        list="throttles"
        :title="$t('Throttles')"
        :hint="$t('where there are several: each is tried by itself')"
        :name="(_, i) => $t('Throttle {n}', { n: i + 1 })"
        :fields="['kind', 'drive']"
        :adds="[{ label: $t('Add a throttle'), item: {}, test: 'add-throttle' }]"
        test="throttles"
      />
      <template v-if="part === 'measures'">
        <section v-for="(_, i) in view.sheet.cargo" :key="`c${i}`" class="panel">
          <header>
            <h2>{{ $t('Cargo box {n}', { n: i + 1 }) }}</h2>
            <RemoveThis list="cargo" :index="i" :what="$t('cargo box {n}', { n: i + 1 })" />
          </header>
          <div class="fields">
            <SheetField v-for="[path] in cargoFields(i)" :key="path" :path="path" />
          </div>
        </section>
        <section v-if="!locked" class="panel">
          <ActButton data-test="add-cargo" @click="add('cargo', { end: 'rear' })">{{
            $t('Add a cargo box')
          }}</ActButton>
        </section>
      </template>
      <section v-if="!locked && (part === 'packs' || (!part && !packs.length))" class="panel">
        <ActButton data-test="add-pack" @click="add('packs', { place: 'down_tube' })">
          {{ packs.length ? $t('Add another battery') : $t('Add battery') }}
        </ActButton>
      </section>
      <section v-if="unsaid.length && !locked && (!part || part === 'controls')" class="panel none">
        <p>{{ $t('Not given yet. Is this right: {unsaid}?', { unsaid: unsaid.map((l) => l.words).join('; ') }) }}</p>
        <ActButton data-test="none-of-them" @click="noneOfThem">
          {{ unsaid.length === 1 ? $t('I looked, it is so') : $t('I looked: all {n} are right', { n: unsaid.length }) }}
        </ActButton>
      </section>
    </div>
    <div class="side">
      <section class="panel">
        <h2>{{ $t('Checks of the intake') }}</h2>
        <p class="caution apart">{{ $t('Packs out and unplugged until gate 5.') }}</p>
        <CheckList :checks="checks" />
        <p class="papers">
          <RouterLink :to="{ name: 'walk', params: { id, gate: '1' } }">{{ $t('On the drawing') }}</RouterLink>
          <a :href="`/api/inspections/${id}/field-sheet.pdf`" target="_blank" rel="noopener" data-test="field-sheet">{{
            $t('Field sheet of what is open (PDF)')
          }}</a>
        </p>
      </section>
      <HeldBy />
    </div>
  </div>
</template>

<style scoped>
.intake {
  --side: 400px;
}
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 4px;
  border-bottom: 2px solid var(--ink);
}
.parts button {
  min-height: 46px;
  padding: 4px 12px;
  border: 0;
  border-radius: 3px 3px 0 0;
  background: transparent;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.parts [aria-current] {
  background: var(--button);
  color: var(--button-ink);
  font-weight: 700;
}
.parts .num {
  margin-left: 7px;
  font-size: 14px;
  color: var(--copper-text);
  font-weight: 700;
}
.parts [aria-current] .num {
  color: inherit;
}
.fields {
  margin: 8px 0;
}
.cross {
  border-left: 5px solid var(--plum);
}
.apart {
  margin: 6px 0;
}
.none {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.papers {
  display: flex;
  flex-wrap: wrap;
  gap: 0 22px;
}
.papers a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
</style>
