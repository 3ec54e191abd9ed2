/** What somebody is in the middle of at a page. */
export interface Doing {
  /** A dialogue is open, or a field has the focus. */
  entering: boolean
  /** Something is held, or on its way. */
  acting: boolean
  /** Something is edited and not saved. */
  unsaved: boolean
  /** Milliseconds since the page was touched last. */
  untouched: number
}

/** How long a page is left alone before it may go, in milliseconds. */
export const ALONE = 20_000

/** Whether a page of an older build may be loaded anew now; nobody is to lose what they are at. */
export function mayGo(loaded: string, served: string, doing: Doing): boolean {
  return (
    !!loaded &&
    !!served &&
    loaded !== served &&
    !doing.entering &&
    !doing.acting &&
    !doing.unsaved &&
    doing.untouched >= ALONE
  )
}
