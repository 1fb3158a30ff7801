/** What to do about a pull that could not be judged. */
export const advice: Record<string, string> = {
  cut: 'cut',
  no_cut: 'did not cut',
  short_pre: 'too soon after the last one: wait half a second under drive',
  gap: 'a gap in the recording',
  short_hold: 'held under a second: hold it longer',
  undriven: 'under 2 A of drive: load the wheel with the drag pad',
  noisy: 'current too rough to tell: steady the drag pad',
  demand_dropped: 'throttle or pedals were let go: keep them up',
  overlap: 'both levers at once: one at a time',
  not_zeroed: 'the clamp was not zeroed: zero it and record again',
  not_pulled: 'the switch closed and the lever lay still: nobody pulled it',
}
export const resultWord: Record<string, string> = { pass: 'holds', fail: 'fails', doubtful: 'not sure' }

/** Which lead the clamp lies around. */
export const clampOn = (m: string) => (m ? `${m.replaceAll('_', ' ')} alone` : 'all motors together')
