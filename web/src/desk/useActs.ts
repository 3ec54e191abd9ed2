import { computed, shallowRef, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useSession } from '../api/session'
import { num, str } from '../canvas/element'
import type { Item } from '../canvas/element'
import type { Opens } from '../live/live'
import { useAsked } from './asked'
import type { Act } from './ScreenView.vue'
import type { Desk, Signing } from './useDesk'
import type { Opened } from './useOpened'
import { remote, spoken, type useCommands } from './useCommands'
import type { useHold } from './useHold'

type Step = NonNullable<Item['element']['then']>[number] & { part?: string }
/** An element of an open screen that something is asked for. */
export interface At {
  opens: Opens
  item: Item
}

/** Whether what is asked of an element would change something beyond this panel. */
function changes(item: Item, how: Act['how']): boolean {
  const p = item.shown
  if (how === 'go' || how === 'open' || (how === 'choose' && p.of === 'parameter')) return false
  return (
    p.action === undefined ||
    remote.has(str(p.action)) ||
    how === 'hold' ||
    (item.element.then ?? []).some((s) => remote.has(s.do))
  )
}

/** What a button does, in its order: the first by its own properties, then its further ones. */
function stepsOf(item: Item): Step[] {
  const p = item.shown
  return [
    {
      do: str(p.action),
      opens: item.element.opens,
      device: str(p.device),
      part: str(p.part),
      language: str(p.language),
      param: str(p.param),
      value: str(p.value),
      by: num(p.by),
    },
    ...(item.element.then ?? []).filter((_, i) => p[`then${i}`] !== false),
  ]
}

/** Does what people ask of elements, and has what lies over the screen for that. */
export function useActs(
  desk: Desk,
  opened: Opened,
  signing: Ref<Signing | undefined>,
  commands: ReturnType<typeof useCommands>,
  hold: ReturnType<typeof useHold>,
  say: (text: string, bad: boolean) => void,
) {
  const { t } = useI18n()
  const session = useSession()
  const asked = useAsked()
  const entry = shallowRef<At>()
  const choosing = shallowRef<At & { choices: { value: string; title: string }[] }>()
  const diagnosing = shallowRef<{ device: string; part?: string }>()
  const point = shallowRef<Item>()
  /** Whether something lies over the screen that takes pointer and keys. */
  const over = computed(
    () =>
      !!(entry.value || choosing.value || diagnosing.value || point.value) ||
      !!(signing.value || commands.asking.value || asked.question),
  )

  function act(opens: Opens, { item, how, value, by }: Act) {
    const e = item.element
    // With nobody signed in the panel shows and sounds; who wants to act signs in.
    if (session.me?.person?.nobody && changes(item, how)) return void (signing.value = {})
    if (how === 'hold') {
      const stage = opened.viewOf(opens)?.stage()
      return hold.press(opens, e.id, item.node, by!, (on) => stage?.hold(e.id, on))
    }
    if (how === 'go') return void opened.go(desk.places.value[Number(value)]!.opens)
    if (how === 'open') return void opened.go(e.opens!)
    if (how === 'press') return void press(opens, item)
    if (item.shown.enabled === false) return say(str(item.shown.why) || t('desk.blocked'), true)
    if (how === 'send') return void commands.send({ opens, item, value: value!, says: spoken(item, value!) })
    commands.problem.value = ''
    if (how === 'choose' && e.props.of === 'parameter') {
      const p = opened.sceneOf(opens)?.params?.find((x) => x.id === str(e.props.param))
      if (p?.choices?.length) choosing.value = { opens, item, choices: p.choices }
      return
    }
    entry.value = { opens, item }
  }

  /**
   * A button's steps. What writes or records is one command, whose steps the server
   * carries out; what a button does at the panel follows as far as they went well.
   */
  async function press(opens: Opens, item: Item) {
    const steps = stepsOf(item)
    const follow = (done: number, all: boolean) => {
      let sent = 0
      for (const step of steps) {
        if (!remote.has(step.do)) local(opens, step)
        else if (++sent > done && !all) return
      }
    }
    if (!steps.some((s) => remote.has(s.do))) return follow(0, true)
    const value = steps[0]!.do === 'toggle' ? String(item.shown.on !== true) : ''
    await commands.send({ opens, item, value, says: commands.meant(item) }, follow)
  }

  /** What a button does at the panel alone. */
  function local(opens: Opens, step: Step) {
    switch (step.do) {
      case 'open':
      case 'face':
        if (step.opens) void opened.go(step.opens)
        break
      case 'close':
        opened.close(opens)
        break
      case 'diagnose':
        diagnosing.value = step.device ? { device: step.device, part: step.part } : undefined
        break
      case 'signin':
        signing.value = {}
        break
      case 'language':
        desk.speak(step.language ?? '')
        break
      case 'param':
        if (step.param) opened.give(opens, step.param, nextValue(opens, step))
    }
  }

  /** What a parameter gets from a button: a value, the next of its choices, or so much more. */
  function nextValue(opens: Opens, step: Step): string {
    const scene = opened.sceneOf(opens)
    const now = scene?.args?.[step.param!] ?? ''
    const choices = scene?.params?.find((x) => x.id === step.param)?.choices
    if (choices?.length && step.by) {
      const at = choices.findIndex((c) => c.value === now)
      return choices[(at + step.by + choices.length) % choices.length]!.value
    }
    return step.by && Number.isFinite(Number(now)) ? String(Number(now) + step.by) : (step.value ?? '')
  }

  /** Sends what was entered; the key pad stays where it was refused. */
  async function enter(text: string) {
    const e = entry.value
    if (!e) return
    await commands.send(
      { opens: e.opens, item: e.item, value: text, says: spoken(e.item, text) },
      (_, all) => all && (entry.value = undefined),
    )
    if (!commands.problem.value) entry.value = undefined
  }
  /** Gives a parameter the value that was chosen for it. */
  function choose(value: string) {
    const asked = choosing.value!
    opened.give(asked.opens, str(asked.item.element.props.param), value)
    choosing.value = undefined
  }
  return { entry, choosing, diagnosing, point, over, act, enter, choose }
}
export type Acts = ReturnType<typeof useActs>
