import { ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, sentence } from '../api/client'
import { num, str } from '../canvas/element'
import type { Item } from '../canvas/element'
import { commandKey, live, type Opens } from '../live/live'
import type { Asks, Given } from './AskBox.vue'
import type { Shown } from './useScene'
import { word } from '../i18n/word'

/** A value on its way from an element, until it is sent. */
export interface Pending {
  opens: Opens // the screen the element is on
  item: Item
  value: string
  says: string // what would be sent, as people read it
}

/** One that waits for what is asked. */
type Asking = Pending & { asks: Asks }

/** What the server carries out; everything else a button does at the panel. */
export const remote = new Set(['set', 'toggle', 'pulse', 'step', 'request', 'record', 'log'])

/** Whether an element does nothing but edit the recipe that is open at this page; anything else the server judges. */
const editsOnly = ({ element, shown }: Item): boolean =>
  !!element.tag?.edits &&
  !['hold', 'pulse', 'request'].includes(str(shown.action)) &&
  !element.then?.some((s) => remote.has(s.do))

export const shownOf = (item: Item): string =>
  item.state.level === 'bad'
    ? '—'
    : str(item.shown.text) || (item.shown.on === true ? 'on' : item.shown.on === false ? 'off' : '')

/** How a value to be sent reads: a state by its name, a number with its unit. */
export function spoken(item: Item, value: string): string {
  const tag = item.element.tag
  const state = tag?.states?.find((s) => String(s.value) === value)?.text
  if (state) return state
  if (tag?.kind === 'BOOL') return value === 'true' ? 'on' : value === 'false' ? 'off' : value
  return [value, tag?.unit].filter(Boolean).join(' ')
}

/** Sends what people enter, after asking what an element asks, and says how it went. */
export function useCommands(
  program: () => Shown,
  project: () => string,
  language: () => string,
  say: (text: string, bad: boolean) => void,
) {
  const { t } = useI18n()
  const asking = shallowRef<Asking>()
  const problem = ref('')
  const busy = ref(false)

  /** Enters a field of the recipe that is open at this page: an edit of it, which nobody else sees before it is saved. */
  async function edit(p: Pending, at: NonNullable<NonNullable<Item['element']['tag']>['edits']>) {
    const { editOpen } = await import('../recipes/tellOpen')
    const { shown } = p.item
    const change = shown.action === 'step' ? { by: num(shown.by) } : { text: p.value || str(shown.value) }
    const refused = editOpen(project(), program(), at, change)
    asking.value = undefined
    if (refused) say((problem.value = t(refused)), true)
    return { steps: refused ? 0 : 1, all: !refused }
  }

  /**
   * Sends what an element does; the server carries its steps out in order. Returns how many
   * went well, and whether all did; nothing where the server asks something first.
   */
  async function post(p: Pending, given?: Given): Promise<{ steps: number; all: boolean } | undefined> {
    problem.value = ''
    const e = p.item.element
    if (editsOnly(p.item)) return edit(p, e.tag!.edits!)
    busy.value = true
    try {
      const { asks, outcome: out } = await ask(
        api.POST('/api/projects/{project}/writes', {
          params: { path: { project: project() }, query: { program: program(), language: language() } },
          body: {
            screen: p.opens.screen,
            args: p.opens.args,
            element: e.id,
            value: p.value,
            seen: shownOf(p.item),
            key: commandKey(),
            at: Math.round(live.serverNow()),
            ...given,
          },
        }),
      )
      if (asks || !out) {
        asking.value = { ...p, asks: asks! }
        return undefined
      }
      const name = str(p.item.shown.caption) || e.name || e.tag?.path || ''
      say(
        t(word('desk.outcome', out.outcome), { name, value: out.new, reason: out.reason }),
        out.outcome !== 'confirmed',
      )
      asking.value = undefined
      return { steps: out.steps, all: out.outcome === 'confirmed' }
    } catch (err) {
      problem.value = sentence(err)
      if (!asking.value) say(problem.value, true)
      return { steps: 0, all: false }
    } finally {
      busy.value = false
    }
  }

  let after: (done: number, all: boolean) => void = () => {}
  /** Sends; where something is asked, once that is answered. Then hears how many of its steps went well. */
  async function send(p: Pending, then: (done: number, all: boolean) => void = () => {}) {
    // Without a reason in words the server says which condition holds it.
    if (p.item.shown.enabled === false && str(p.item.shown.why)) return say(str(p.item.shown.why), true)
    after = then
    const done = await post(p)
    if (done) then(done.steps, done.all)
  }
  async function answered(given: Given) {
    if (!asking.value) return
    const done = await post(asking.value, given)
    // Refused, it can be asked again.
    if (done && !asking.value) after(done.steps, done.all)
  }

  /** What a button that steps or sets would send, for the question. */
  function meant(item: Item): string {
    const p = item.shown
    if (p.action === 'step') return `${shownOf(item)} ${num(p.by) >= 0 ? '+' : '−'} ${Math.abs(num(p.by))}`
    if (p.action === 'set' || p.action === 'pulse' || p.action === 'request')
      return spoken(item, str(p.value))
    if (p.action === 'toggle') return spoken(item, String(p.on !== true))
    return ''
  }
  return { asking, problem, busy, send, answered, meant }
}
