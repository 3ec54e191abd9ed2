import { onBeforeUnmount, onMounted, watch, type Ref } from 'vue'
import type { Element } from '../../api/client'
import { complete, Stage } from '../../canvas/stage'
import { live } from '../../live/live'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'

/** Draws the document that is edited, with the draft's live values over it. */
export function useDrawing(editor: Editor, root: Ref<SVGGElement | undefined>, isLive: () => boolean) {
  const project = useProject()
  const drawn = new Map<string, string>()
  let stage: Stage | undefined
  let close: (() => void) | undefined

  const defaults = (kind: string) => Object.fromEntries((project.kind(kind)?.props ?? []).map((p) => [p.name, p.default]))

  /** Draws one element as it is while it is being dragged. */
  function draw(id: string, e: Element) {
    stage?.set(complete(id, e, defaults(e.kind)), editor.order.value)
    drawn.delete(id)
  }
  const nodeOf = (id: string) => stage?.get(id)?.node

  /** Brings the stage to the document, redrawing only what changed. */
  function sync() {
    const now = editor.doc.value?.elements
    if (!stage || !now) return
    for (const id of stage.ids()) {
      if (now[id]) continue
      stage.remove(id)
      drawn.delete(id)
    }
    for (const id of editor.order.value) {
      const text = JSON.stringify(now[id])
      const node = stage.get(id)
      if (node && drawn.get(id) === text) continue
      draw(id, now[id]!)
      drawn.set(id, text)
    }
    stage.arrange(editor.order.value)
  }

  function follow(on: boolean) {
    close?.()
    close = undefined
    if (on) {
      close = live.open({ op: 'scene', project: project.id, program: 'draft', screen: editor.doc.value!.id }, (f) => {
        if (f.scene) stage?.bind(f.scene)
        if (f.v) stage?.apply(f)
      })
      return
    }
    // Without live values everything shows its plain ones.
    for (const id of stage?.ids() ?? []) stage!.remove(id)
    drawn.clear()
    sync()
  }

  onMounted(() => {
    stage = new Stage(root.value!)
    sync()
    follow(isLive())
  })
  onBeforeUnmount(() => close?.())
  watch(editor.doc, sync)
  watch(isLive, follow)
  return { draw, nodeOf }
}
