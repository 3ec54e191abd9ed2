import { api, ask } from '../api/client'
import type { Moment } from '../canvas/recent'

/** What asks at about the same time is asked together. */
const TOGETHER = 30
const POINTS = 240

interface Waiting {
  tag: string
  from: number
  to: number
  take: (course: Moment[]) => void
}

/** Gives the recorded course of tags of a project; none where there is none, or nobody answers. */
export function courses(project: () => string) {
  let waiting: Waiting[] = []
  async function bring(list: Waiting[]) {
    const query = {
      tags: [...new Set(list.map((w) => w.tag))].join(','),
      from: Math.round(Math.min(...list.map((w) => w.from))),
      to: Math.round(Math.max(...list.map((w) => w.to))),
      points: POINTS,
    }
    const params = { path: { project: project() }, query }
    const got = await ask(api.GET('/api/projects/{project}/trend', { params })).catch(() => undefined)
    for (const w of list) {
      const pen = got?.lines.find((l) => l.tag === w.tag)?.pen
      w.take(
        (pen?.at ?? []).map((at, i) => ({
          at,
          v: pen!.last[i] ?? null,
          ...(pen!.step && pen!.low[i] != null ? { low: pen!.low[i]!, high: pen!.high[i]! } : {}),
        })),
      )
    }
  }
  return (tag: string, from: number, to: number) =>
    new Promise<Moment[]>((take) => {
      if (!waiting.length)
        setTimeout(() => {
          // Stretches of one length go together.
          const lengths = new Map<number, Waiting[]>()
          for (const w of waiting) {
            const length = Math.round((w.to - w.from) / 1000)
            lengths.set(length, [...(lengths.get(length) ?? []), w])
          }
          for (const group of lengths.values()) void bring(group)
          waiting = []
        }, TOGETHER)
      waiting.push({ tag, from, to, take })
    })
}
