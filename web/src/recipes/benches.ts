import type { Bench } from './useBook'

/** What was open and edited, by book and person: it is still there when its page is opened again. */
export const benches = new Map<string, Bench>()

/** Whether something of any book is edited and not saved at this page. */
export const unsaved = () => [...benches.values()].some((b) => b.edits.size > 0)
