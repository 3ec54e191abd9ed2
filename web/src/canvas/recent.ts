import type { Around } from './element'

/** A number at a moment, in milliseconds since 1970; null where nothing was known. */
export interface Moment {
  at: number
  v: number | null
  /** Of a part of the time, what it moved between. */
  low?: number
  high?: number
}

/**
 * The last stretch of a tag: as it was recorded before it was shown here, and as it
 * came in since. A replay that jumps has it read anew.
 */
export class Recent {
  private list: Moment[] = []
  private asking = false

  /** Again is called when what was recorded has come. */
  constructor(
    private around: Around,
    private tag: string | undefined,
    private again: () => void,
  ) {}

  /** Takes what is shown now, and gives the stretch up to it, oldest first. */
  put(v: number | null, reach: number): Moment[] {
    const now = this.around.now().getTime()
    const last = this.list.at(-1)
    if (!last || now < last.at || now - last.at > reach) this.list = []
    if (!this.list.length) this.ask(now - reach, now)
    else if (now - last!.at > reach / 4) this.ask(last!.at, now)
    const newest = this.list.at(-1)
    if (newest && newest.v !== null && v !== null && now - newest.at < reach / 240) {
      newest.low = Math.min(newest.low ?? newest.v, v)
      newest.high = Math.max(newest.high ?? newest.v, v)
      newest.v = v
    } else if (!newest || v !== null || newest.v !== null) this.list.push({ at: now, v })
    return this.within(now - reach)
  }

  /** What is known of the time since a moment, with what held as it began. */
  within(from: number): Moment[] {
    const first = this.list.findLastIndex((m) => m.at <= from)
    if (first > 0) this.list.splice(0, first)
    return this.list
  }

  private ask(from: number, to: number) {
    if (!this.tag || !this.around.course || this.asking) return
    this.asking = true
    void this.around.course(this.tag, from, to).then((recorded) => {
      this.asking = false
      const first = this.list.find((m) => m.at >= to)?.at ?? to
      const before = this.list.filter((m) => m.at <= from)
      const after = this.list.filter((m) => m.at >= first)
      // It has jumped elsewhere meanwhile: what came is of another time.
      if (!after.length || !recorded.length) return
      this.list = [
        ...before,
        ...recorded.filter((m) => m.at > (before.at(-1)?.at ?? -1) && m.at < first),
        ...after,
      ]
      this.again()
    })
  }
}
