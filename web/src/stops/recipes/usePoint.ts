import { api, ask } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'

/** Finds what a tag is in a book: its id, or the member of the type that it is; empty where it is neither. */
export function usePoint(book: () => string) {
  const project = useProject()
  const notice = useNotice()
  return (tag: string): Promise<string> => {
    const params = { path: { project: project.id, book: book() }, query: { tag } }
    return ask(api.GET('/api/projects/{project}/books/{book}/point', { params })).catch(
      (e) => (notice.refuse(e), ''),
    )
  }
}
