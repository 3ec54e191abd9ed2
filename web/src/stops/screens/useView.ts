import { useElementBounding } from '@vueuse/core'
import { ref, type Ref } from 'vue'
import type { Screen } from '../../api/client'

/** Which part of the drawing plane the editor shows: zoom to the pointer, pan, fit. */
export function useView(frame: Ref<HTMLElement | undefined>, doc: Ref<Screen>, above: number, below: number) {
  const { width, height, left, top, update } = useElementBounding(frame)
  const view = ref({ x: -24, y: -80, scale: 0.6 })

  /** A place in the window as one on the screen that is drawn. */
  function toScreen(e: { clientX: number; clientY: number }) {
    return {
      x: (e.clientX - left.value) / view.value.scale + view.value.x,
      y: (e.clientY - top.value) / view.value.scale + view.value.y,
    }
  }
  function zoomBy(f: number, at?: { clientX: number; clientY: number }) {
    const p = toScreen(at ?? { clientX: left.value + width.value / 2, clientY: top.value + height.value / 2 })
    const scale = Math.max(0.1, Math.min(8, view.value.scale * f))
    const k = view.value.scale / scale
    view.value = { scale, x: p.x - (p.x - view.value.x) * k, y: p.y - (p.y - view.value.y) * k }
  }
  function fit() {
    const w = doc.value.width + 32
    const h = doc.value.height + above + below + 32
    const scale = Math.min(width.value / w, height.value / h, 1)
    view.value = {
      scale,
      x: -(width.value / scale - doc.value.width) / 2,
      y: -above - (height.value / scale - doc.value.height - above - below) / 2,
    }
  }
  /** One pixel of the screen is one of this page; the middle stays where it is. */
  const full = () => zoomBy(1 / view.value.scale)
  return { view, width, height, left, top, update, toScreen, zoomBy, fit, full }
}

export type View = ReturnType<typeof useView>
