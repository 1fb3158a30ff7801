<script setup lang="ts">
import { $t } from '@/lib/say'
import ActButton from '@/parts/ActButton.vue'
import { bare, unitShown, width, withUnit } from '@/state/units'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useKeys } from '@/lib/keys'
import { may, workshopName } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { date, figure, term } from '@/lib/words'
import GateMark from '@/parts/GateMark.vue'
import PersonButton from '@/parts/PersonButton.vue'
import KeyHelp from '@/parts/KeyHelp.vue'
import ConnectedTools from './ConnectedTools.vue'
import KitSheets from './KitSheets.vue'
import RulePacks from './RulePacks.vue'
import PeopleRegister from './PeopleRegister.vue'
import RegisterLog from './RegisterLog.vue'
import ToolForm from './ToolForm.vue'

const router = useRouter()
const { workshop, tools } = useWorkshop()
const editing = ref<string | null>(null)
const help = ref(false)
const keys = useKeys([
  { key: 'b', does: $t('day board'), run: () => void router.push('/') },
  { key: 't', does: $t('enter a tool'), run: () => (editing.value = may('lead') ? '+' : null) },
  { key: '?', does: $t('these keys'), run: () => (help.value = !help.value) },
])
const soon = new Date(Date.now() + 60 * 864e5).toISOString().slice(0, 10)
const sorted = computed(() =>
  [...tools.value].sort((a, b) => Number(b.lapsed) - Number(a.lapsed) || a.id.localeCompare(b.id)),
)
const certificate = (t: (typeof tools.value)[number]) =>
  t.lapsed
    ? $t('expired {valid_to}: shown, does not count', { valid_to: date(t.valid_to!) })
    : t.valid_to
      ? $t('to {valid_to}{valid_to2}', {
          valid_to: date(t.valid_to),
          valid_to2: t.valid_to < soon ? $t(', due soon') : '',
        })
      : $t('needs none')
const state = (t: (typeof tools.value)[number]) =>
  t.lapsed ? 'held' : t.valid_to && t.valid_to < soon ? 'ajar' : 'open'
</script>

<template>
  <div class="page">
    <header class="mast">
      <h1>
        <RouterLink to="/">{{ $t('Jade Gate') }}</RouterLink>
      </h1>
      <span>{{ $t('{place} · workshop', { place: workshopName.place }) }}</span>
      <span class="gap" />
      <KeyHelp v-model="help" :keys="keys" />
      <PersonButton />
    </header>
    <main>
      <section class="panel" data-test="tools">
        <header>
          <h2>{{ $t('Tools and their certificates') }}</h2>
          <ActButton v-if="may('lead')" variant="flat" data-test="tool-new" @click="editing = '+'">{{
            $t('Enter a tool')
          }}</ActButton>
        </header>
        <ToolForm v-if="editing === '+' && workshop" :tool="null" :kinds="workshop.tool_kinds" @done="editing = null" />
        <div class="scroll" tabindex="0" role="group" :aria-label="$t('Tools')">
          <table>
            <thead>
              <tr>
                <th>
                  <span class="sr">{{ $t('state') }}</span>
                </th>
                <th>{{ $t('number') }}</th>
                <th>{{ $t('what') }}</th>
                <th class="num">{{ $t('used from') }}</th>
                <th class="num">{{ $t('to') }}</th>
                <th class="num">{{ $t('error') }}</th>
                <th class="num">{{ $t('step') }}</th>
                <th>{{ $t('certificate') }}</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              <template v-for="t in sorted" :key="t.id">
                <tr :data-tool="t.id">
                  <td>
                    <GateMark :state="state(t)" :size="26" :label="t.lapsed ? $t('does not count') : $t('counts')" />
                  </td>
                  <td class="num left">{{ t.id }}</td>
                  <td>{{ t.name }}</td>
                  <td class="num">{{ t.reach_max ? bare(t.reach_min, t.unit) : '–' }}</td>
                  <td class="num">{{ t.reach_max ? withUnit(t.reach_max, t.unit) : unitShown(t.unit) }}</td>
                  <td class="num">
                    ±{{
                      [
                        t.error_pct ? `${figure(t.error_pct, 2)} %` : '',
                        t.a_abs ? `${figure(width(t.a_abs, t.unit), 2)} ${unitShown(t.unit)}` : '',
                      ]
                        .filter(Boolean)
                        .join(' + ') || '0'
                    }}
                  </td>
                  <td class="num">{{ t.resolution ? figure(width(t.resolution, t.unit), 2) : '–' }}</td>
                  <td :class="{ attend: t.lapsed }">{{ certificate(t) }}</td>
                  <td>
                    <button
                      v-if="may('lead')"
                      type="button"
                      class="plain"
                      :aria-label="$t('change {id}', { id: t.id })"
                      @click="editing = t.id"
                    >
                      {{ $t('change') }}
                    </button>
                  </td>
                </tr>
                <tr v-if="editing === t.id && workshop">
                  <td colspan="9"><ToolForm :tool="t" :kinds="workshop.tool_kinds" @done="editing = null" /></td>
                </tr>
              </template>
            </tbody>
          </table>
        </div>
      </section>
      <ConnectedTools />
      <KitSheets />
      <RulePacks />
      <div class="two">
        <PeopleRegister />
        <section class="panel">
          <h2>{{ $t('Shop rules') }}</h2>
          <p v-if="workshop">
            {{
              $t('{name}, version {version}, of {as_of}', {
                name: workshop.house.name,
                version: workshop.house.version,
                as_of: date(workshop.house.as_of),
              })
            }}
          </p>
          <dl v-if="workshop">
            <template v-for="(v, k) in workshop.house.schools" :key="k">
              <dt>{{ term(String(k)) }}</dt>
              <dd>{{ term(String(v)) }}</dd>
            </template>
          </dl>
        </section>
      </div>
      <RegisterLog v-if="may('inspector')" />
    </main>
  </div>
</template>

<style scoped>
main {
  display: grid;
  gap: 14px;
  padding: 16px 20px 24px;
  max-width: 1280px;
  margin: 0 auto;
}
.gap {
  flex: 1;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(320px, 100%), 1fr));
  gap: 14px;
}
td {
  vertical-align: middle;
}
td.left {
  text-align: left;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 4px 16px;
}
dt {
  color: var(--soft);
}
</style>
