import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { sentence } from '../api/client'
import { i18n } from '../i18n'
import type { Asks, Given } from './AskBox.vue'

/** What is done, and what people read of it. */
export interface Doing {
  title: string
  says: string
  minutes?: number // it may last at most
}
/** What goes with it: nothing at first, and then all that is answered. */
export type Answer = Partial<Given> & { language: string }

/** One that waits for what is asked. */
interface Question extends Doing {
  asks: Asks
  problem: string
  busy: boolean
  send: (given: Given) => void
  close: () => void
}

/** Does things that may ask something first; one box for all of them stands in the application. */
export const useAsked = defineStore('asked', () => {
  const question = shallowRef<Question>()
  const language = () => i18n.global.locale.value

  /**
   * Does it; where the server asks something, or something is asked from the start, once that is
   * answered. Returns undefined where the person gives up. Throws where it is refused at once; a
   * refusal of the answers stands in the box.
   */
  async function send<T extends { asks?: Asks }>(
    doing: Doing,
    run: (answer: Answer) => Promise<T>,
    asks?: Asks,
  ): Promise<T | undefined> {
    question.value?.close()
    if (!asks) {
      const first = await run({ minutes: doing.minutes, language: language() })
      if (!first.asks) return first
      asks = first.asks
    }
    return new Promise((done) => {
      const end = (got?: T) => ((question.value = undefined), done(got))
      const stand = (asks: Asks, problem = '', busy = false) =>
        (question.value = { ...doing, asks, problem, busy, send: answer, close: () => end() })
      const answer = async (given: Given) => {
        const asks = question.value!.asks
        stand(asks, '', true)
        try {
          const got = await run({ ...given, language: language() })
          if (got.asks) stand(got.asks)
          else end(got)
        } catch (e) {
          if (question.value) stand(asks, sentence(e))
        }
      }
      stand(asks)
    })
  }
  return { question, send }
})
