import type { SceneElement } from '../live/live'

/** Properties of an element as they are now: its own, with live values over them. */
export type Props = Record<string, unknown>

/** What an element's renderer may need to know beside its properties. */
export interface State {
  level: string // of the worst value shown: good, uncertain, bad
  held: boolean // a person holds this button here
}

export type Update = (p: Props, s: State) => void

/** Draws an element into a group once and returns what brings it up to date. */
export type Renderer = (g: SVGGElement, e: SceneElement) => Update

export const str = (v: unknown, otherwise = ''): string => (typeof v === 'string' ? v : otherwise)
export const num = (v: unknown, otherwise = 0): number => (typeof v === 'number' && Number.isFinite(v) ? v : otherwise)
