import { onBeforeUnmount, onMounted, watch, type Ref } from 'vue'
import type { Element } from '../../api/client'
import { useAround } from '../../canvas/around'
import { pageMounts } from '../../canvas/mounts'
import { complete, Stage } from '../../canvas/stage'
import { live } from '../../live/live'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'

/** Draws the document that is edited, with the draft's live values over it. */
export function useDrawing(
  editor: Editor,
  root: Ref<SVGGElement | undefined>,
  isLive: () => boolean,
  args: () => Record<string, string>,
) {
  const project = useProject()
  const catalogue = useCatalogue()
  const around = useAround()
  const drawn = new Map<string, string>()
  let stage: Stage | undefined
  let close: (() => void) | undefined

  const defaults = (kind: string) =>
    Object.fromEntries((catalogue.kind(kind)?.props ?? []).map((p) => [p.name, p.default]))

  /** Draws one element as it is while it is being dragged. */
  function draw(id: string, e: Element, order = editor.order.value) {
    stage?.set(complete(id, e, defaults(e.kind)), order)
    drawn.delete(id)
  }
  /** Takes elements to be moved about; see Stage.carry. */
  const carry = (ids: string[]) => stage!.carry(ids)

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
      if (node) node.node.style.visibility = now[id]!.hidden ? 'hidden' : ''
      if (node && drawn.get(id) === text) continue
      draw(id, now[id]!, [])
      drawn.set(id, text)
      if (now[id]!.hidden) stage.get(id)!.node.style.visibility = 'hidden'
    }
    stage.arrange(editor.order.value)
  }

  /** Follows the draft: what symbols hold comes with the scene, live values while they are wanted. */
  function follow() {
    close?.()
    close = live.open(
      { op: 'scene', project: project.id, program: 'draft', screen: editor.doc.value!.id, args: args() },
      (f) => {
        if (f.scene) stage?.bind(f.scene)
        if (f.v && isLive()) stage?.apply(f)
      },
    )
  }
  /** Without live values everything shows its plain ones. */
  function plain() {
    for (const id of stage?.ids() ?? []) stage!.remove(id)
    drawn.clear()
    sync()
    follow()
  }

  // Lists of alarms show those of the draft.
  const mounts = pageMounts(() => ({ project: project.id, program: 'draft', language: '' }))
  onMounted(() => {
    stage = new Stage(root.value!, around, (item) => mounts.mount(item.element, item.node), true)
    sync()
    follow()
  })
  onBeforeUnmount(() => {
    close?.()
    mounts.end()
  })
  watch(editor.doc, sync)
  watch(isLive, plain)
  watch(args, follow)
  const pose = (id: string, prop: string, v: unknown) => stage?.pose(id, prop, v)
  const shown = (id: string) => stage?.get(id)?.shown
  return { draw, carry, pose, shown }
}
