import { ref } from 'vue'
import type { Schemas } from '../api/client'

/** What the server sends on a channel; see docs/live-protocol.md. */
export interface Frame {
  t?: number
  /** On the channel of news: the number of each program's alarms. */
  a?: Record<string, number>
  g?: number
  s?: number
  v?: [number, unknown, number?, ...unknown[]][]
  scene?: Scene
}

// What comes over the socket is described by the server's own types.
export type Scene = Schemas['Scene']
export type SceneElement = Schemas['SceneElement']
export type Opens = Schemas['Opens']
export type TagInfo = Schemas['TagInfo']
export type News = Schemas['News']
type Message = Schemas['LiveMessage']

/** What is followed of a project, by however many. */
interface NewsFeed {
  listeners: Set<(n: News) => void>
  alarms: Record<string, number>
  close: () => void
}

interface Channel {
  open: Record<string, unknown>
  frame: (f: Frame) => void
  problem: (text: string) => void
  heard: number
  failed: boolean // the server refused it: nothing is to be heard on it
}

/** Quality codes by the table that the server's hello brings; the last is good, the one before it held. */
type Quality = Schemas['QualityInfo']
const qualities: Quality[] = [{ level: 'good', reason: '' }]

/** The level and reason of a quality code; no code is good. A held value is good, and of a level of its own here. */
export function quality(code: number | undefined): Quality {
  const at = code ?? qualities.length - 1
  const q = qualities[at] ?? { level: 'bad', reason: '' }
  return at === qualities.length - 2 ? { level: 'held', reason: q.reason } : q
}

const STALE_AFTER = 2000
/** Channels on which the server sends something twice a second, whatever happens. */
const beats = new Set(['scene', 'news'])

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
  private presses = new Map<string, (m: { held?: boolean; over?: string }) => void>()
  private opened = new Set<() => void>()
  private failed = new Set<() => void>()
  private feeds = new Map<string, NewsFeed>()
  /** What a person is told of a lost connection. */
  lostText: () => string = () => 'no connection to the server'
  /** In what language the server says what it has to say here. */
  language = 'en'

  /** The server's time, as the frames tell it: never ahead of it. */
  serverNow(): number {
    return Date.now() - this.offset
  }

  /** Opens a channel; the function it returns closes it. */
  open(
    message: Record<string, unknown>,
    frame: (f: Frame) => void,
    problem: (text: string) => void = () => {},
  ): () => void {
    const ch = this.next++
    this.channels.set(ch, { open: message, frame, problem, heard: performance.now(), failed: false })
    this.wanted = true
    this.connect()
    this.say({ ...message, ch })
    return () => {
      this.channels.delete(ch)
      this.say({ op: 'close', ch })
    }
  }

  /**
   * Follows a project's news. One channel serves all who follow it; its beats
   * tell the number of the alarms, so that who shows them knows what it missed.
   */
  news(project: string, listener: (n: News) => void): () => void {
    let feed = this.feeds.get(project)
    if (!feed) {
      const made: NewsFeed = { listeners: new Set(), alarms: {}, close: () => {} }
      this.feeds.set(project, made)
      made.close = this.open({ op: 'news', project }, (f) => f.a && (made.alarms = f.a))
      feed = made
    }
    const mine = feed
    mine.listeners.add(listener)
    return () => {
      mine.listeners.delete(listener)
      if (mine.listeners.size || this.feeds.get(project) !== mine) return
      mine.close()
      this.feeds.delete(project)
    }
  }

  /** The number that the server last told of a program's alarms; undefined while it is not known. */
  alarmNumber(project: string, program: string): number | undefined {
    return this.feeds.get(project)?.alarms[program]
  }

  /** Calls whenever the connection is there (again). */
  onOpen(f: () => void): () => void {
    this.opened.add(f)
    return () => this.opened.delete(f)
  }

  /** Calls whenever connecting fails, as when the session has ended elsewhere. */
  onFail(f: () => void): () => void {
    this.failed.add(f)
    return () => this.failed.delete(f)
  }

  /** Hears what becomes of a press: of its end in any case, also by the connection's. */
  follow(key: string, told: (m: { held?: boolean; over?: string }) => void): () => void {
    this.presses.set(key, told)
    return () => this.presses.delete(key)
  }

  say(message: Record<string, unknown>) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message))
  }

  /** Has the server speak another language. */
  speak(language: string) {
    this.language = language
    this.say({ op: 'language', language })
  }

  stop() {
    this.wanted = false
    this.socket?.close()
    this.connected.value = false
    this.endPresses()
  }

  private endPresses() {
    for (const told of [...this.presses.values()]) told({ over: this.lostText() })
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
    const socket = new WebSocket(
      `${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/api/live`,
    )
    this.socket = socket
    socket.onopen = () => {
      if (this.socket !== socket) return
      this.connected.value = true
      this.retry = 250
      this.say({ op: 'language', language: this.language })
      // What shows is as old as it was until something is heard again.
      for (const [ch, c] of this.channels) {
        c.failed = false
        this.say({ ...c.open, ch })
      }
      this.opened.forEach((f) => f())
    }
    socket.onmessage = (e) => this.socket === socket && this.receive(JSON.parse(e.data as string))
    socket.onclose = () => {
      if (this.socket !== socket) return
      const was = this.connected.value
      this.connected.value = false
      this.feeds.forEach((feed) => (feed.alarms = {}))
      this.endPresses()
      if (!was) this.failed.forEach((f) => f())
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
    if (m.news) this.feeds.get(m.news.project)?.listeners.forEach((l) => l(m.news!))
    if (m.key) this.presses.get(m.key)?.(m)
    const refused = m.ch && m.problem ? this.channels.get(m.ch) : undefined
    if (refused) {
      refused.failed = true
      refused.problem(m.problem!)
    }
  }

  /** Whether nothing was heard for two seconds on a channel that has beats. */
  silent(): boolean {
    const now = performance.now()
    for (const c of this.channels.values())
      if (beats.has(c.open.op as string) && !c.failed && now - c.heard > STALE_AFTER) return true
    return !this.connected.value && this.channels.size > 0
  }
}

export const live = new Live()

/** A key of its own for a command. */
export function commandKey(): string {
  const b = crypto.getRandomValues(new Uint8Array(12))
  return Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('')
}
