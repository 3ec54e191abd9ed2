import { defineAsyncComponent } from 'vue'
import { str, version, type ElementKind } from '../element'
import { frame } from '../frame'

// Brought when a screen has the first one.
const BookPage = defineAsyncComponent(() => import('../../recipes/BookPage.vue'))

/** An element that shows a book of recipes or a part of one. */
const of = (name: string, part: string, natural?: true): ElementKind => ({
  name,
  natural,
  draw: frame,
  page: (e, viewer) => [
    BookPage,
    {
      project: viewer.project,
      program: version(viewer),
      part,
      id: str(e.props.book),
      only: str(e.props.equipment) || undefined,
      says: e.props,
      // What is tried or drawn reaches no plant, and alters none of its recipes.
      send: viewer.program === 'release',
      edits: e.props.edits !== false && viewer.program === 'release',
    },
  ],
})

const kinds = [
  of('recipes', 'page', true),
  of('recipelist', 'list', true),
  of('recipetable', 'table', true),
  of('recipetargets', 'targets', true),
  of('recipesend', 'send', true),
  of('recipefield', 'field'),
  of('recipebutton', 'button'),
]
export default kinds
