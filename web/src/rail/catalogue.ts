import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Kind, type Prop, type Schemas } from '../api/client'
import { word } from '../i18n/word'

/** What the server knows of every project: the kinds of things and elements, functions of formulas, choices. */
export const useCatalogue = defineStore('catalogue', () => {
  const { locale, t, te } = useI18n({ useScope: 'global' })
  const told = shallowRef<Partial<Schemas['Catalogue']>>({})
  let spoken = ''

  /** Asks for it, once in each language. */
  async function load() {
    if (spoken === locale.value) return
    told.value = await ask(api.GET('/api/catalogue'))
    spoken = locale.value
  }
  const listed =
    <K extends keyof Schemas['Catalogue']>(key: K) =>
    () =>
      (told.value[key] ?? []) as Schemas['Catalogue'][K]

  const kind = (name: string): Kind | undefined => told.value.kinds?.find((k) => k.name === name)
  const prop = (kindName: string, name: string): Prop | undefined =>
    kind(kindName)?.props.find((p) => p.name === name)
  /** What a kind of element, a property or a choice is called here; the catalogue's own name where there is no wording. */
  const kindTitle = (name: string) =>
    te('element.' + name) ? t(word('element', name)) : (kind(name)?.title ?? name)
  const propTitle = (p: Prop) => (te('prop.' + p.name) ? t(word('prop', p.name)) : p.title)
  const choiceTitle = (c: string) => (te('choice.' + c) ? t(word('choice', c)) : c)

  return {
    load,
    kinds: computed(listed('kinds')),
    /** The kinds of things that a project consists of. */
    things: computed(listed('things')),
    colours: computed(listed('colours')),
    functions: computed(listed('functions')),
    system: computed(listed('system')),
    behaviours: computed(listed('behaviours')),
    looks: computed(listed('looks')),
    places: computed(listed('places')),
    differing: computed(listed('differing')),
    alarmDiffering: computed(listed('alarmDiffering')),
    alarmUsual: computed(listed('alarmUsual')),
    /** What a site has rules for in its journal. */
    entries: computed(listed('entries')),
    failures: computed(listed('failures')),
    ...{ kind, prop, kindTitle, propTitle, choiceTitle },
  }
})
