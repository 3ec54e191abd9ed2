/** Whose records are read: those of a project's recorder, or of one of its logs. */
export interface Source {
  project: string
  log?: string
}
