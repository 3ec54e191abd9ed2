import { defineAsyncComponent } from 'vue'
import { str, type ElementKind } from '../element'
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
      program: viewer.program,
      part,
      id: str(e.props.book),
      only: str(e.props.equipment) || undefined,
      says: e.props,
      // What is drawn alters no recipe of the plant; Try has a copy of its own.
      send: viewer.program !== 'draft',
      edits: e.props.edits !== false && viewer.program !== 'draft',
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
