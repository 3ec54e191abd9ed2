import { ref } from 'vue'

/** What the server sends on a channel; see docs/live-protocol.md. */
export interface Frame {
  t?: number
  g?: number
  s?: number
  v?: [number, unknown, number?, ...unknown[]][]
  scene?: Scene
}

/** A screen ready to be drawn; as the server's package screen describes it. */
export interface Scene {
  screen: string
  name: string
  title: string
  role?: string
  width: number
  height: number
  background: string
  args?: Record<string, string>
  params?: { id: string; title: string; choices?: { value: string; title: string }[] }[]
  elements: SceneElement[]
  bindings: { element: string; prop: string }[]
}

export interface Opens {
  screen: string
  args?: Record<string, string>
}

export interface SceneElement {
  id: string
  kind: string
  name?: string
  in?: string
  x: number
  y: number
  w: number
  h: number
  angle?: number
  points?: number[]
  content?: { w: number; h: number }
  tab?: number
  tabs?: string[]
  rows?: { title: string; tag: TagInfo | null }[]
  props: Record<string, unknown>
  looks?: Record<string, unknown>[]
  tag?: TagInfo
  opens?: Opens
  then?: { do: string; opens?: Opens; device?: string; language?: string; param?: string; value?: string; by?: number }[]
  problem?: string
}

export interface TagInfo {
  id: string
  path: string
  kind: string
  unit?: string
  low?: string
  high?: string
  from?: number
  to?: number
  step?: number
  decimals: number
  states?: { value: number; text: string }[]
  writable: boolean
}

export interface News {
  project: string
  revision: number
  person: string
  things?: string[]
  release?: number
}

interface Message {
  hello?: { t: number; qualities: { level: string; reason: string }[] }
  ch?: number
  problem?: string
  key?: string
  lease?: string
  over?: string
  news?: News
}

interface Channel {
  open: Record<string, unknown>
  frame: (f: Frame) => void
  problem: (text: string) => void
  heard: number
}

/** Quality codes by the table that the server's hello brings; the last is good, the one before it held. */
const qualities = [{ level: 'good', reason: '' }]

/** The level and reason of a quality code; no code is good. A held value is good, and of a level of its own here. */
export function quality(code: number | undefined): { level: string; reason: string } {
  const at = code ?? qualities.length - 1
  const q = qualities[at] ?? { level: 'bad', reason: '' }
  return at === qualities.length - 2 ? { level: 'held', reason: q.reason } : q
}

const STALE_AFTER = 2000

/** One WebSocket to the server, reopened with its channels when it breaks. */
class Live {
  /** Whether the socket is open. */
  readonly connected = ref(false)
  private socket?: WebSocket
  private channels = new Map<number, Channel>()
  private next = 1
  private retry = 250
  private wanted = false
  private offset = 0
  private presses = new Map<string, (m: Message) => void>()
  private overs = new Map<string, (why: string) => void>()

  /** The server's time, as the frames tell it: never ahead of it. */
  serverNow(): number {
    return Date.now() - this.offset
  }

  /** Opens a channel; the function it returns closes it. */
  open(message: Record<string, unknown>, frame: (f: Frame) => void, problem: (text: string) => void = () => {}): () => void {
    const ch = this.next++
    this.channels.set(ch, { open: message, frame, problem, heard: performance.now() })
    this.wanted = true
    this.connect()
    this.say({ ...message, ch })
    return () => {
      this.channels.delete(ch)
      this.say({ op: 'close', ch })
    }
  }

  /** Follows a project's news. */
  private newsListeners = new Set<(n: News) => void>()
  news(project: string, listener: (n: News) => void): () => void {
    this.newsListeners.add(listener)
    const close = this.open({ op: 'news', project }, () => {})
    return () => {
      this.newsListeners.delete(listener)
      close()
    }
  }

  /** Begins a hold; settles with the lease, or fails with the reason. */
  hold(message: Record<string, unknown> & { key: string }, over: (why: string) => void): Promise<string> {
    return new Promise((resolve, reject) => {
      if (!this.connected.value) return reject(new Error('no connection to the server'))
      this.presses.set(message.key, (m) => {
        if (m.lease && !m.problem) {
          this.overs.set(m.lease, over)
          resolve(m.lease)
        } else reject(new Error(m.problem))
      })
      this.say({ op: 'hold', ...message })
    })
  }

  say(message: Record<string, unknown>) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message))
  }

  stop() {
    this.wanted = false
    this.socket?.close()
  }

  /** Reconnects, as after another person signed in. */
  restart() {
    this.stop()
    this.wanted = true
    this.socket = undefined
    this.connect()
  }

  private connect() {
    if (!this.wanted || (this.socket && this.socket.readyState <= WebSocket.OPEN)) return
    const socket = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/api/live`)
    this.socket = socket
    socket.onopen = () => {
      if (this.socket !== socket) return
      this.connected.value = true
      this.retry = 250
      for (const [ch, c] of this.channels) this.say({ ...c.open, ch })
    }
    socket.onmessage = (e) => this.socket === socket && this.receive(JSON.parse(e.data as string))
    socket.onclose = () => {
      if (this.socket !== socket) return
      this.connected.value = false
      this.overs.forEach((over) => over('the connection to the server broke'))
      this.overs.clear()
      if (this.wanted) setTimeout(() => this.connect(), this.retry)
      this.retry = Math.min(this.retry * 2, 4000)
    }
  }

  private receive(m: Message | [number, Frame]) {
    if (Array.isArray(m)) {
      const c = this.channels.get(m[0])
      if (!c) return
      c.heard = performance.now()
      if (m[1].t) this.offset = Date.now() - m[1].t
      c.frame(m[1])
      return
    }
    if (m.hello) {
      qualities.splice(0, qualities.length, ...m.hello.qualities)
      this.offset = Date.now() - m.hello.t
    }
    if (m.news) this.newsListeners.forEach((l) => l(m.news!))
    if (m.key) {
      this.presses.get(m.key)?.(m)
      this.presses.delete(m.key)
    }
    if (m.lease && m.over) {
      this.overs.get(m.lease)?.(m.over)
      this.overs.delete(m.lease)
    }
    if (m.ch && m.problem) this.channels.get(m.ch)?.problem(m.problem)
  }

  /** Whether nothing was heard on any scene for two seconds. */
  silent(): boolean {
    const now = performance.now()
    for (const c of this.channels.values()) if (c.open.op === 'scene' && now - c.heard > STALE_AFTER) return true
    return !this.connected.value && this.channels.size > 0
  }
}

export const live = new Live()

/** A key of its own for a command. */
export function commandKey(): string {
  const b = crypto.getRandomValues(new Uint8Array(12))
  return Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('')
}
