<script setup lang="ts">
import { $t } from '@/lib/say'
import TermHint from '@/parts/TermHint.vue'
import { computed } from 'vue'
import { useInspection } from '@/state/inspection'
import { may } from '@/state/session'
import { useWorkshop } from '@/state/workshop'
import { date, minutes, severityWord, verdictWord, term } from '@/lib/words'
import GateMark from '@/parts/GateMark.vue'
import TakeBack from '@/parts/TakeBack.vue'
import { found } from '@/lib/told'
import { bare, withUnit } from '@/state/units'
import JudgeOtherwise from './JudgeOtherwise.vue'
import RepairForm from './RepairForm.vue'
import RiderSheet from './RiderSheet.vue'
import ShareWith from './ShareWith.vue'
import SignForm from './SignForm.vue'

const { id, view, evaluation, locked } = useInspection()
const { workshop } = useWorkshop()
const sentence = computed(
  () =>
    ({
      open: $t('Everything asked was done and nothing but notes stands.'),
      ajar: $t('It may be ridden under the conditions below, each with its date.'),
      held: $t('Something must be mended, or a check is still open or not sure.'),
      shut: $t('Nobody rides it until the stop below is gone.'),
    })[evaluation.value?.verdict ?? 'held'],
)
const open = computed(
  () => evaluation.value?.checks.filter((c) => c.outcome === 'open' || c.outcome === 'doubtful') ?? [],
)
/** The motor whose axle a finding is about. */
const drive = (check: string) => {
  const c = evaluation.value?.checks.find((x) => x.id === check)
  return c && c.calc === 'axle-hold' && c.drive >= 0 ? c.drive : null
}
const schools = computed(() => Object.entries(workshop.value?.house.schools ?? {}))
const word = term
</script>

<template>
  <div v-if="view && evaluation" class="station verdict">
    <div class="left">
      <section class="panel big">
        <GateMark :state="evaluation.verdict" :size="150" />
        <div>
          <h2 data-test="verdict-words">{{ verdictWord[evaluation.verdict] }}</h2>
          <p>{{ sentence }}</p>
          <p v-if="evaluation.unsettled" class="small">
            {{
              evaluation.unsettled === 1
                ? $t('1 check not settled, {minutes}.', { minutes: minutes(evaluation.minutes) })
                : $t('{n} checks not settled, {minutes}.', {
                    n: evaluation.unsettled,
                    minutes: minutes(evaluation.minutes),
                  })
            }}
          </p>
          <ul v-if="evaluation.conditions?.length" class="conditions" data-test="conditions">
            <li v-for="c in evaluation.conditions" :key="c">
              {{ $t('On condition: {condition}.', { condition: c }) }}
            </li>
          </ul>
          <p v-if="view.signed" class="small">
            {{ $t('Signed by {name}, {at}.', { name: view.signed.what.name, at: date(view.signed.at) }) }}
          </p>
          <p v-if="evaluation.verdict_only" class="small">
            {{
              $t(
                "Signed with an earlier edition, which kept only the verdict: the checks below are judged by today's rules.",
              )
            }}
          </p>
          <p
            v-if="evaluation.today"
            :class="evaluation.today === evaluation.verdict ? 'small' : 'attend'"
            data-test="today"
          >
            {{ $t("Under today's rules: {today_words}.", { today_words: evaluation.today_words }) }}
          </p>
        </div>
      </section>
      <section class="panel">
        <h2>{{ $t('Findings, worst first') }}</h2>
        <ul class="rows" data-test="findings">
          <li v-for="f in evaluation.findings" :key="f.check + f.output" class="finding">
            <GateMark :state="f.severity === 'stop' ? 'shut' : f.severity === 'fix' ? 'held' : 'ajar'" :size="34" />
            <div>
              <b :class="f.severity === 'stop' ? 'stop' : 'attend'">{{ f.title }}</b>
              <span class="small">{{ severityWord[f.severity] }}</span>
              <div>{{ f.words }}{{ found(f.judged, { bare, full: withUnit }) }}</div>
              <div v-if="f.overruled" class="small">
                {{
                  $t('Computed as “{computed}”; {by} judges it “{judged}”{second}: {reason}', {
                    computed: severityWord[f.computed],
                    by: f.overruled.by,
                    judged: severityWord[f.severity],
                    second: f.overruled.what.countersigned
                      ? $t(' with {countersigned}', { countersigned: f.overruled.what.countersigned })
                      : '',
                    reason: f.overruled.what.reason,
                  })
                }}
              </div>
              <TakeBack v-if="f.overruled && !locked" :entry="f.overruled.id" :what="$t('that judgement')" />
              <div v-if="f.due" class="attend">{{ $t('Look again by {due}', { due: date(f.due) }) }}</div>
              <p v-if="f.never" class="small">{{ $t('This cannot be lowered: mend it and measure again.') }}</p>
              <JudgeOtherwise v-else-if="!locked && !f.overruled && may('inspector')" :finding="f" />
            </div>
            <RouterLink v-if="drive(f.check) !== null" :to="{ name: 'axle', params: { id, drive: drive(f.check) } }">{{
              $t('What would make it hold')
            }}</RouterLink>
          </li>
          <li v-if="!evaluation.findings.length" class="small">{{ $t('None.') }}</li>
        </ul>
      </section>
      <section v-if="open.length" class="panel">
        <h2>{{ $t('Not settled') }}</h2>
        <ul class="rows">
          <li v-for="c in open" :key="c.id">
            <RouterLink
              :to="
                c.gate === 1
                  ? { name: 'intake', params: { id }, query: { check: c.id } }
                  : c.gate === 6
                    ? { name: 'bench', params: { id } }
                    : { name: 'walk', params: { id, gate: String(c.gate) }, query: { check: c.id } }
              "
              >{{ c.title }}</RouterLink
            >
            <span class="small"> {{ c.gate_name }} · {{ c.outcome === 'doubtful' ? $t('not sure') : $t('open') }}</span>
          </li>
        </ul>
      </section>
    </div>
    <div class="side">
      <SignForm v-if="!view.signed && may('inspector')" />
      <p v-else-if="!view.signed" class="caution">{{ $t('An inspector or a lead signs.') }}</p>
      <RiderSheet />
      <ShareWith v-if="may('inspector')" />
      <section class="panel">
        <h2>{{ $t('Paper') }}</h2>
        <p class="links">
          <a :href="`/api/inspections/${id}/report.pdf`" target="_blank" data-test="report">{{ $t('Report, PDF') }}</a>
          <a :href="`/api/inspections/${id}/bundle.zip`" data-test="bundle">{{ $t('Whole record, ZIP') }}</a>
        </p>
        <p class="small">
          {{ $t('Log at entry') }} <span class="num">{{ view.seq }}</span>,
          <span class="num">{{ view.head.slice(0, 16) }}</span>
        </p>
      </section>
      <RepairForm v-if="!locked" />
      <section class="panel">
        <h2>{{ $t('Shop rules in force:') }} <TermHint term="school" :words="$t('schools')" /></h2>
        <table>
          <tbody>
            <tr v-for="[q, a] in schools" :key="q">
              <td>{{ word(q) }}</td>
              <td>{{ word(String(a)) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </div>
</template>

<style scoped>
.big {
  display: flex;
  flex-wrap: wrap;
  gap: 14px 34px;
  align-items: center;
  padding: 26px;
}
.big h2 {
  font-size: 44px;
  line-height: 1.1;
}
.finding {
  display: grid;
  grid-template-columns: 40px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: start;
}
.rows > li > a + .small {
  margin-left: 8px;
}
.finding b {
  margin-right: 8px;
}
.links {
  display: flex;
  gap: 22px;
}
.links a {
  min-height: 44px;
  display: inline-flex;
  align-items: center;
}
</style>
