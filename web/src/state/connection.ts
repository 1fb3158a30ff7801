/**
 * The one connection by which a browser listens to its server. It runs in a worker that all
 * windows share, or, where the browser has none, in each window for itself
 * (docs/decisions/35-one-stream-a-browser.md).
 */
export interface Topic {
  of: 'inspection' | 'bench' | 'readings'
  id?: string
  kind?: string
  screen?: string
  place?: string
}
/** A message of the server: of a topic by its key, or of the connection itself. */
export interface Told {
  key?: string
  kind: string
  data?: unknown
}

/** How long a connection stays without a topic, how soon a lost one is made anew, and how soon one under another session, ms. */
const IDLE_MS = 5_000
const AGAIN_MS = 1_500
const ANEW_MS = 100

export class Connection {
  private topics = new Map<string, Topic>()
  private source: EventSource | null = null
  private stream = ''
  private greeted = false
  private n = 0
  private timer: ReturnType<typeof setTimeout> | undefined
  private putting: ReturnType<typeof setTimeout> | undefined
  private anew: ReturnType<typeof setTimeout> | undefined
  open = false

  constructor(
    private readonly tell: (m: Told) => void,
    private readonly state: (open: boolean) => void,
  ) {}

  put(key: string, topic: Topic) {
    this.topics.set(key, topic)
    if (this.source) this.sync()
    else this.connect()
  }
  drop(key: string) {
    this.topics.delete(key)
    this.sync()
    if (!this.topics.size) this.later(IDLE_MS)
  }
  /** Under another session: what is heard from now on is heard by who is here now. Each window says so; it is done once. */
  again() {
    clearTimeout(this.anew)
    this.anew = setTimeout(() => {
      this.close()
      if (this.topics.size) this.connect()
    }, ANEW_MS)
  }

  /** Tries again, if nothing else did meanwhile. */
  private later(ms: number) {
    clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      if (!this.topics.size) this.close()
      else if (!this.source) this.connect()
    }, ms)
  }
  private close() {
    clearTimeout(this.putting)
    this.source?.close()
    this.source = null
    this.greeted = false
    this.say(false)
  }
  private say(open: boolean) {
    if (this.open === open) return
    this.open = open
    this.state(open)
  }
  private connect() {
    this.stream = Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join(
      '',
    )
    const source = new EventSource(`/api/streams/${this.stream}`)
    this.source = source
    const on = (e: Event) => {
      const m = JSON.parse((e as MessageEvent<string>).data) as Told
      if (m.kind === 'hello') {
        this.greeted = true
        this.sync()
      } else this.tell(m)
    }
    source.addEventListener('message', on)
    source.onerror = () => {
      this.greeted = false
      this.say(false)
      if (source.readyState !== EventSource.CLOSED || this.source !== source) return // the browser tries again by itself
      this.source = null
      this.later(AGAIN_MS)
    }
  }
  /** Puts what is listened to, once for all that changed at this moment. */
  private sync() {
    clearTimeout(this.putting)
    this.putting = setTimeout(() => void this.hand(), 0)
  }
  private async hand() {
    if (!this.greeted) return
    const stream = this.stream
    const topics = [...this.topics].map(([key, t]) => ({ key, ...t }))
    const ok = await fetch(`/api/streams/${stream}`, {
      method: 'PUT',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ n: ++this.n, topics }),
      signal: AbortSignal.timeout(10_000),
    }).then(
      (r) => r.ok,
      () => false,
    )
    if (stream !== this.stream || !this.source) return
    if (ok) this.say(true)
    else {
      this.close()
      this.later(AGAIN_MS)
    }
  }
}
