import { useEventListener } from '@vueuse/core'
import { ref, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useSettings } from '../../kit/settings'
import { type Box, GRID } from './geometry'
import type { Editor, PlanName } from './useEditor'

interface Commands {
  boxes: () => Map<string, Box>
  zoomBy: (f: number) => void
  fit: () => void
  full: () => void
  enter: (id: string) => void
  openMenu: () => void
  plan: (name: PlanName) => void
  /** Closes what lies over the canvas; tells whether anything did. */
  close: () => boolean
}

/** Keys work wherever the focus is in the editor, but for fields and what Space and Tab do to buttons. Returns whether Space is held. */
export function useKeys(
  editor: Editor,
  frame: Ref<HTMLElement | undefined>,
  commands: () => Commands,
): Ref<boolean> {
  const { t } = useI18n()
  const settings = useSettings()
  const space = ref(false)
  const selection = editor.selection
  const elements = () => editor.doc.value!.elements

  function nudge(key: string, by: number) {
    const [sx, sy] = arrows[key]!
    void editor.place(
      t('editor.moved', { n: selection.value.size }),
      new Map([...commands().boxes()].map(([id, b]) => [id, { x: b.x + sx * by, y: b.y + sy * by }])),
    )
  }
  function escape() {
    if (commands().close()) return
    if (editor.inside.value && !selection.value.size) editor.inside.value = ''
    else selection.value = new Set()
  }
  /** Selects the next or the last one before. */
  function walk(step: number) {
    const all = [
      ...new Set(editor.order.value.filter((id) => !elements()[id]!.hidden).map((id) => editor.unit(id))),
    ]
    const at = all.findIndex((id) => selection.value.has(id))
    selection.value = new Set([all[(at + step + all.length) % all.length]!])
  }
  const toggle = (name: 'locked' | 'hidden') =>
    editor.flag(name, !editor.selected.value.every(([, x]) => x[name]))
  /** Both panes away, or back: the whole page for the screen. */
  function fold() {
    const away = !settings.folded.left || !settings.folded.right
    settings.folded = { left: away, right: away }
  }
  const withCtrl: Record<string, (e: KeyboardEvent) => unknown> = {
    g: (e) => (e.shiftKey ? editor.ungroup() : editor.group()),
    l: () => toggle('locked'),
    h: () => toggle('hidden'),
    ']': (e) => editor.raise(true, !e.shiftKey),
    '[': (e) => editor.raise(false, !e.shiftKey),
    a: () =>
      (selection.value = new Set(
        Object.keys(elements())
          .filter((id) => !elements()[id]!.locked)
          .map((id) => editor.unit(id)),
      )),
    c: () => editor.copy(),
    x: () => editor.copy().then(() => editor.remove()),
    v: () => editor.paste(),
    d: (e) => (e.shiftKey ? selection.value.size && commands().plan('steps') : editor.duplicate()),
    m: (e) => selection.value.size && commands().plan(e.shiftKey ? 'repeat' : 'symbol'),
    '+': () => commands().zoomBy(1.25),
    '=': () => commands().zoomBy(1.25),
    '-': () => commands().zoomBy(0.8),
    '0': () => commands().fit(),
    '1': () => commands().full(),
    '\\': () => fold(),
  }

  function press(e: KeyboardEvent) {
    const target = e.target as HTMLElement
    if (target.isContentEditable || ['INPUT', 'SELECT', 'TEXTAREA'].includes(target.tagName)) return
    if ((e.key === ' ' || e.key === 'Tab') && target !== frame.value && target !== document.body) return
    const key = e.key.toLowerCase()
    if (e.ctrlKey || e.metaKey) {
      if (!withCtrl[key]) return
      void withCtrl[key](e)
    } else if (key === ' ') space.value = true
    else if (arrows[key] && selection.value.size) nudge(key, e.altKey ? 1 : e.shiftKey ? 10 * GRID : GRID)
    else if (key === 'delete' || key === 'backspace') void editor.remove()
    else if (key === 'escape') escape()
    else if (key === 'enter' && selection.value.size === 1 && target === frame.value)
      commands().enter([...selection.value][0]!)
    else if (key === 'contextmenu' || (e.shiftKey && key === 'f10')) commands().openMenu()
    else if (key === 'tab' && editor.order.value.length) walk(e.shiftKey ? -1 : 1)
    else return
    e.preventDefault()
  }
  useEventListener('keydown', press)
  useEventListener('keyup', (e: KeyboardEvent) => e.key === ' ' && (space.value = false))
  return space
}

const arrows: Record<string, [number, number]> = {
  arrowleft: [-1, 0],
  arrowright: [1, 0],
  arrowup: [0, -1],
  arrowdown: [0, 1],
}
