import type { SceneElement } from '../live/live'

/** Properties of an element as they are now: its own, with its look and live values over them. */
export type Props = Record<string, unknown>

/** What an element's renderer may need to know beside its properties. */
export interface State {
  level: string // of the worst value shown: bad, uncertain, held, good
  held: boolean // a person holds this button here
}

export type Update = (p: Props, s: State) => void

/** Draws an element into a group once and returns what brings it up to date. */
export type Renderer = (g: SVGGElement, e: SceneElement) => Update

export const str = (v: unknown, otherwise = ''): string => (typeof v === 'string' ? v : otherwise)
export const num = (v: unknown, otherwise = 0): number =>
  typeof v === 'number' && Number.isFinite(v) ? v : otherwise

/** How far a value lies between two ends, cut to 0 and 1. */
export const share = (v: number, low: number, high: number): number =>
  Math.max(0, Math.min(1, (v - low) / (high - low || 1)))
