import { inject, provide, type InjectionKey } from 'vue'
import type { Around } from './element'

const key: InjectionKey<Around> = Symbol('around')

/** What elements show where nobody gives them more: the clock of this machine. */
const plain: Around = { now: () => new Date(), person: () => '', screens: () => [], picture: (id) => id }

/** Gives the elements on every stage below their surroundings. */
export const provideAround = (around: Partial<Around>): void => provide(key, { ...plain, ...around })

/** The surroundings of elements, as whoever shows the stage gives them. */
export const useAround = (): Around => inject(key, plain)
