import { RangeSetBuilder } from '@codemirror/state'
import {
  Decoration,
  EditorView,
  ViewPlugin,
  WidgetType,
  type DecorationSet,
  type ViewUpdate,
} from '@codemirror/view'
import { colour } from '../theme'

/** Where the text of a colour stands in a formula, without its quotes. */
export interface ColourSpot {
  from: number
  to: number
  text: string
}

const literal = /"([^"\n]*)"/g

/** The texts of a formula that are colours; known tells whether a name is one. */
export function colourSpots(formula: string, known: (name: string) => boolean): ColourSpot[] {
  return [...formula.matchAll(literal)].flatMap((m) => {
    const text = m[1]!
    const is =
      /^#[0-9a-f]{6}([0-9a-f]{2})?$/i.test(text) ||
      (/^[a-z]+( [1-9]\d?%)?$/i.test(text) && known(text.split(' ')[0]!))
    return is ? [{ from: m.index + 1, to: m.index + 1 + text.length, text }] : []
  })
}

class Swatch extends WidgetType {
  constructor(
    private spot: ColourSpot,
    private title: string,
    private pick: (spot: ColourSpot) => void,
  ) {
    super()
  }
  override eq(other: Swatch): boolean {
    return other.spot.text === this.spot.text && other.spot.from === this.spot.from
  }
  override toDOM(): HTMLElement {
    const b = document.createElement('button')
    b.type = 'button'
    b.className = 'colour-literal'
    b.title = this.title
    b.setAttribute('aria-label', `${this.title} ${this.spot.text}`)
    b.style.background = colour(this.spot.text)
    b.addEventListener('mousedown', (e) => e.preventDefault())
    b.addEventListener('click', () => this.pick(this.spot))
    return b
  }
  override ignoreEvent(): boolean {
    return true
  }
}

/** Shows each colour of a formula before its text; pressing one picks another. */
export function colourLiterals(
  known: (name: string) => boolean,
  title: string,
  pick: (spot: ColourSpot) => void,
) {
  const marks = (view: EditorView) => {
    const b = new RangeSetBuilder<Decoration>()
    for (const spot of colourSpots(view.state.doc.toString(), known))
      b.add(spot.from, spot.from, Decoration.widget({ widget: new Swatch(spot, title, pick), side: -1 }))
    return b.finish()
  }
  return ViewPlugin.fromClass(
    class {
      decorations: DecorationSet
      constructor(view: EditorView) {
        this.decorations = marks(view)
      }
      update(u: ViewUpdate) {
        if (u.docChanged) this.decorations = marks(u.view)
      }
    },
    { decorations: (v) => v.decorations },
  )
}
