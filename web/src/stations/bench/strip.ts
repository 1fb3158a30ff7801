import type { Schemas } from '@/api/client'

/** A channel of a recording, as it is drawn. */
export type Channel = 'current' | 'voltage' | 'speed' | 'throttle' | 'left' | 'right'
export const channels: Channel[] = ['current', 'voltage', 'speed', 'throttle', 'left', 'right']

/** What the strip draws: plain lists, not watched, for they change sixty times a second. */
export class StripBuffer {
  t: number[] = []
  of: Record<Channel, number[]> = { current: [], voltage: [], speed: [], throttle: [], left: [], right: [] }

  /** Adds what is newer than what is there; drops what is older than keep seconds. */
  add(s: Schemas['Strip'], keep: number) {
    const t = s.t ?? []
    for (let i = 0; i < t.length; i++) {
      if (this.t.length && t[i]! <= this.t[this.t.length - 1]!) continue
      this.t.push(t[i]!)
      for (const c of channels) this.of[c].push(s[c]?.[i] ?? 0)
    }
    let drop = 0
    while (drop < this.t.length && this.t[drop]! < this.newest - keep) drop++
    if (drop > 200) for (const x of [this.t, ...Object.values(this.of)]) x.splice(0, drop)
  }
  get newest() {
    return this.t[this.t.length - 1] ?? 0
  }
  clear() {
    for (const x of [this.t, ...Object.values(this.of)]) x.length = 0
  }
}
