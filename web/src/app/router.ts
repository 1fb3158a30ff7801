import { $t } from '@/lib/say'
import { nextTick } from 'vue'
import { pageAway } from '@/state/reading'
import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'board', component: () => import('@/stations/board/DayBoard.vue') },
    {
      path: '/i/:id',
      component: () => import('@/stations/InspectionFrame.vue'),
      props: true,
      children: [
        { path: '', redirect: (to) => ({ name: 'walk', params: { ...to.params, gate: '2' } }) },
        { path: 'intake', name: 'intake', component: () => import('@/stations/intake/IntakeSheet.vue') },
        {
          path: 'gate/:gate(\\d)',
          name: 'walk',
          component: () => import('@/stations/walk/WalkRound.vue'),
          props: true,
        },
        {
          path: 'axle/:drive(\\d+)?',
          name: 'axle',
          component: () => import('@/stations/axle/AxleBench.vue'),
          props: (to) => (to.params.drive ? { drive: Number(to.params.drive) } : {}),
        },
        { path: 'mid', name: 'mid', component: () => import('@/stations/mid/MidBench.vue') },
        { path: 'ledger', name: 'ledger', component: () => import('@/stations/ledger/TorqueLedger.vue') },
        { path: 'bench', name: 'bench', component: () => import('@/stations/bench/CutoffBench.vue') },
        { path: 'verdict', name: 'verdict', component: () => import('@/stations/verdict/VerdictPage.vue') },
      ],
    },
    { path: '/workshop', name: 'workshop', component: () => import('@/stations/workshop/WorkshopPage.vue') },
    { path: '/law/:pack', name: 'law', component: () => import('@/stations/law/LawReview.vue'), props: true },
    { path: '/sums/:name?', name: 'sums', component: () => import('@/stations/sums/BenchSums.vue') },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
  // The way back leads to where one was; what only changes what is open stays where it is.
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? false : { top: 0 }),
})

router.onError((_, to) => pageAway(() => router.push(to.fullPath)))

/** Fetches the stations one after the other while there is nothing else to do, so that each opens at once, and without the server too. */
export async function fetchStations() {
  for (const r of router.getRoutes()) {
    const load = r.components?.default
    if (typeof load === 'function') await (load as () => Promise<unknown>)().catch(() => undefined)
  }
}

/** What a page is called in the window's title. */
const titles: Record<string, string> = {
  board: $t('Day board'),
  workshop: $t('Workshop'),
  law: $t('Law of a place'),
  sums: $t('Bench sums'),
  intake: $t('Intake'),
  axle: $t('Axle bench'),
  mid: $t('Mid-drive bench'),
  ledger: $t('Torque ledger'),
  bench: $t('Cutoff bench'),
  verdict: $t('Verdict'),
}
router.afterEach((to, from) => {
  const name = String(to.name ?? '')
  document.title = $t('{name} · Jade Gate', {
    name: name === 'walk' ? $t('Gate {gate}', { gate: String(to.params.gate) }) : (titles[name] ?? ''),
  })
  if (to.path === from.path) return
  // Whoever works by keys or by ear goes on in the work, not at the top of the page.
  void nextTick(() => {
    if (document.activeElement === document.body) document.getElementById('work')?.focus({ preventScroll: true })
  })
})
