import type { Component, Ref } from 'vue'
import type { By } from '../live/hand'
import type { SceneElement } from '../live/live'
import type { Moment } from './recent'

/** Properties of an element as they are now: its own, with its look and live values over them. */
export type Props = Record<string, unknown>

/** What an element's renderer may need to know beside its properties. */
export interface State {
  level: string // of the worst value shown: bad, uncertain, held, good
  held: boolean // a person holds this button here
}

/** What elements show that no tag gives. */
export interface Around {
  now: () => Date
  /** Who is signed in. */
  person: () => string
  /** The places of the navigation in an area, all where none is given. */
  screens: (area: string) => { id: string; name: string }[]
  /** The address of a picture by its id. */
  picture: (id: string) => string
  /** What was recorded of a tag between two moments; where it is not given nothing is. */
  course?: (tag: string, from: number, to: number) => Promise<Moment[]>
}

export type Update = (p: Props, s: State) => void

/** Draws an element into a group once and returns what brings it up to date. */
export type Renderer = (g: SVGGElement, e: SceneElement, around: Around) => Update

/** An element on the stage. */
export interface Item {
  element: SceneElement
  node: SVGGElement
  shown: Props // own properties with its look and live values over them
  levels: Record<string, string> // of live properties
  reasons: Record<string, string>
  /** Properties whose formula has a mistake. */
  mistakes: Set<string>
  state: State
}

/** What a person does to an element, for the Desk to carry out. */
export type How = 'press' | 'enter' | 'send' | 'choose' | 'open' | 'go'

/** Where a kind of element tells what a person did to it. */
export interface Hand {
  say: (item: Item, how: How, value?: string) => void
  hold: (item: Item, by: By) => void
  /** Shows a value in place of a live one, for looking only; undefined takes it away. */
  pose: (id: string, prop: string, v: unknown) => void
  /** Shows one of a tab set's tabs, counted from 1. */
  turn: (id: string, tab: number) => void
}

/** For whom a page of its own is mounted in an element. */
export interface Viewer {
  project: string
  program: 'release' | 'try' | 'draft'
  language: string
}

/** The version whose things a viewer sees; what is tried is the draft. */
export const version = (viewer: Viewer): 'draft' | 'release' =>
  viewer.program === 'release' ? 'release' : 'draft'

/** Everything that is special to a kind of element on a screen. What is left out it does not do. */
export interface ElementKind {
  name: string
  draw: Renderer
  /** The page that is mounted in it, and what it is given: its own properties, and those that are shown now. */
  page?: (e: SceneElement, viewer: Viewer, shown: Ref<Props>) => [Component, Record<string, unknown>]
  /** Its letters keep their size where the screen is drawn small: the page is laid out anew in its place. */
  natural?: true
  /** What pressing it tells; inside finds what was hit in it by a data attribute. */
  press?: (item: Item, hand: Hand, inside: (name: string) => string | undefined) => void
  /** A finger that stays on it means something, so that wire makes it answer to pointer and keys. */
  stays?: (e: SceneElement) => boolean
  wire?: (item: Item, hand: Hand) => void
  /** Its role to who cannot see it, where that is no button. */
  role?: string
  /** Its label says all there is to hear of it. */
  silent?: true
  /** It is read out though it cannot be pressed. */
  reads?: true
  /** It shows an uncertain value in its own text. */
  speaks?: true
  /** A large drawing that others lie on: a bad value veils its corner alone. */
  backdrop?: true
  /** Others lie in it. */
  holds?: true
  /** What lies in it keeps the coordinates of the screen. */
  gathers?: true
  /** How it is drawn as a sample of its kind. */
  sample?: { props?: Props; w?: number; h?: number; box?: string }
}

export const str = (v: unknown, otherwise = ''): string => (typeof v === 'string' ? v : otherwise)
export const num = (v: unknown, otherwise = 0): number =>
  typeof v === 'number' && Number.isFinite(v) ? v : otherwise

/** How far a value lies between two ends, cut to 0 and 1. */
export const share = (v: number, low: number, high: number): number =>
  Math.max(0, Math.min(1, (v - low) / (high - low || 1)))

/** The keys that press what has the focus. */
export const presses = (e: KeyboardEvent): boolean => e.key === ' ' || e.key === 'Enter'
