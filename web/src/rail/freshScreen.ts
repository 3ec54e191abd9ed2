import type { Schemas } from '../api/client'
import type { useProject } from './project'

/** A new screen of the size of the project's panels, last in the navigation. */
export function freshScreen(
  project: ReturnType<typeof useProject>,
  name: string,
  elements: Record<string, Schemas['Element']> = {},
) {
  return {
    name,
    width: project.overview!.screenWidth,
    height: project.overview!.screenHeight,
    order: Math.floor(Math.max(0, ...project.screens.map((s) => s.order))) + 1,
    home: project.screens.length === 0 || undefined,
    elements,
  }
}
