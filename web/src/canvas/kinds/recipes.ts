import { defineAsyncComponent } from 'vue'
import { str, version, type ElementKind } from '../element'
import { frame } from '../frame'

// Brought when a screen has the first one.
const BookPage = defineAsyncComponent(() => import('../../recipes/BookPage.vue'))

const kind: ElementKind = {
  name: 'recipes',
  draw: frame,
  page: (e, viewer) => [
    BookPage,
    {
      project: viewer.project,
      program: version(viewer),
      id: str(e.props.book),
      only: str(e.props.equipment) || undefined,
      list: !!e.props.list,
      // What is tried or drawn reaches no plant, and alters none of its recipes.
      send: !!e.props.send && viewer.program === 'release',
      edits: !!e.props.edits && viewer.program === 'release',
    },
  ],
}
export default kind
