import type alarms from './en/alarms.json'
import type audit from './en/audit.json'
import type desk from './en/desk.json'
import type devices from './en/devices.json'
import type equipment from './en/equipment.json'
import type history from './en/history.json'
import type people from './en/people.json'
import type recipes from './en/recipes.json'
import type release from './en/release.json'
import type screens from './en/screens.json'
import type shell from './en/shell.json'
import type site from './en/site.json'
import type tags from './en/tags.json'

type Texts = typeof alarms &
  typeof audit &
  typeof desk &
  typeof devices &
  typeof equipment &
  typeof history &
  typeof people &
  typeof recipes &
  typeof release &
  typeof screens &
  typeof shell &
  typeof site &
  typeof tags

/** What stands at a path of the texts, such as 'alarm.state'. */
type At<T, P extends string> = P extends `${infer First}.${infer Rest}`
  ? First extends keyof T
    ? At<T[First], Rest>
    : never
  : P extends keyof T
    ? T[P]
    : never

/** A group of texts of which one is chosen by a value. */
export type WordOf<Group extends string> = string & keyof At<Texts, Group>

/**
 * The key of the text in a group that a value chooses: word('alarm.state', state).
 * A value that may have no text there is an error of types.
 */
export const word = <Group extends string>(group: Group, value: WordOf<Group>): string => `${group}.${value}`

declare module 'vue' {
  interface ComponentCustomProperties {
    $word: typeof word
  }
}
