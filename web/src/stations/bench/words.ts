import { term } from '@/lib/words'
import { $t } from '@/lib/say'
/** What to do about a pull that could not be judged. */
export const advice: Record<string, string> = {
  cut: $t('cut'),
  no_cut: $t('did not cut'),
  short_pre: $t('too soon after the last one: wait half a second under drive'),
  gap: $t('a gap in the recording'),
  short_hold: $t('held under a second: hold it longer'),
  undriven: $t('under 2 A of drive: load the wheel with the drag pad'),
  noisy: $t('current too rough to tell: steady the drag pad'),
  demand_dropped: $t('throttle or pedals were let go: keep them up'),
  overlap: $t('both levers at once: one at a time'),
  not_zeroed: $t('the clamp was not zeroed: zero it and record again'),
  not_pulled: $t('the switch closed and the lever lay still: nobody pulled it'),
}
export const resultWord: Record<string, string> = { pass: $t('holds'), fail: $t('fails'), doubtful: $t('not sure') }

/** Which lead the clamp lies around. */
export const clampOn = (m: string) => (m ? $t('{motor} alone', { motor: term(m) }) : $t('all motors together'))
