import { commandKey } from './live'

/** How often what is held is renewed, in milliseconds; the server lets go after 500 without. */
const RENEW_MS = 150

/** What a press needs of the live connection. */
export interface PressLine {
  /** Says something to the server; what cannot be said is lost. */
  say: (message: Record<string, unknown>) => void
  /** Hears what the server says of a press, and that the connection broke; the function it returns ends that. */
  follow: (key: string, told: (m: { held?: boolean; over?: string }) => void) => () => void
}

/** What a press is about, and who is told how it goes. */
export interface Pressed {
  message: Record<string, unknown>
  /** Whether the hand is still there, asked before each renewal. */
  alive: () => boolean
  over: (why?: string) => void
}

/**
 * One press of one button that is held. It has a key, a timer and an end of
 * its own: two presses share nothing. It ends once; the server lets go when it
 * is told, or when it hears nothing for half a second.
 */
export class Press {
  readonly key = commandKey()
  private timer = 0
  private over = false
  private readonly unfollow: () => void

  constructor(
    private readonly line: PressLine,
    private readonly about: Pressed,
  ) {
    this.unfollow = line.follow(this.key, (m) => m.over !== undefined && this.close(m.over))
    line.say({ op: 'hold', key: this.key, ...about.message })
    // From now on and not from the answer: a press counts from its beginning.
    this.timer = window.setInterval(() => {
      if (about.alive()) line.say({ op: 'renew', key: this.key, project: about.message.project })
      else this.end('the hand was gone')
    }, RENEW_MS)
  }

  /** Lets go. */
  end(reason: string) {
    if (this.over) return
    this.line.say({ op: 'let-go', key: this.key, project: this.about.message.project, reason })
    this.close()
  }

  private close(why?: string) {
    if (this.over) return
    this.over = true
    clearInterval(this.timer)
    this.unfollow()
    this.about.over(why)
  }
}
