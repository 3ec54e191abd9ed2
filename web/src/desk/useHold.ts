import { onScopeDispose } from 'vue'
import { useI18n } from 'vue-i18n'
import { type By, watchHand } from '../live/hand'
import { live, type Opens } from '../live/live'
import { Press } from '../live/press'
import type { Shown } from './useScene'

/**
 * Hold-to-run at this page: one press at a time. A press ends with its hand,
 * and with whatever changes under it: the Desk calls end for those.
 */
export function useHold(program: () => Shown, project: () => string, refuse: (why: string) => void) {
  const { t } = useI18n()
  let current: Press | undefined
  live.lostText = () => t('desk.lostPress')

  /** Presses an element of a screen; shown marks it while it is held. */
  function press(opens: Opens, element: string, node: Element, by: By, shown: (held: boolean) => void) {
    end('another press')
    if (!live.connected.value) return refuse(live.lostText())
    // The hand is watched from before the server hears of it.
    let gone = ''
    const hand = watchHand(node, by, (reason) => {
      gone = reason
      mine?.end(reason)
    })
    // eslint-disable-next-line prefer-const -- the hand may go before the press is there
    let mine: Press | undefined
    shown(true)
    mine = new Press(live, {
      message: {
        program: program(),
        project: project(),
        screen: opens.screen,
        args: opens.args,
        element,
        at: Math.round(live.serverNow()),
      },
      alive: hand.alive,
      over: (why) => {
        hand.stop()
        shown(false)
        if (current === mine) current = undefined
        if (why) refuse(why)
      },
    })
    current = mine
    if (gone) mine.end(gone)
  }
  /** Ends what is held, if anything is. */
  function end(reason: string) {
    current?.end(reason)
  }
  onScopeDispose(() => end('the page was left'))
  return { press, end, held: () => !!current }
}
