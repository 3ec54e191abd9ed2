import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useProject } from '../rail/project'

export type Folder = Schemas['FolderInfo']

/** The folders of the draft, and those within each by its id; '' is the top. `told` hears of every new list. */
export function useFolders(told: (there: Set<string>) => void = () => {}) {
  const project = useProject()
  const folders = shallowRef<Folder[]>([])
  const inside = computed(() => {
    const out = new Map<string, Folder[]>()
    for (const f of folders.value) {
      const beside = out.get(f.parent)
      if (beside) beside.push(f)
      else out.set(f.parent, [f])
    }
    return out
  })
  watch(
    () => project.versionOf('folder', 'type', 'equipment', 'paths'),
    async () => {
      const asked = api.GET('/api/projects/{project}/folders', { params: { path: project.path } })
      folders.value = await ask(asked).catch(() => folders.value)
      told(new Set(folders.value.map((f) => f.id)))
    },
    { immediate: true },
  )
  return { folders, inside }
}
