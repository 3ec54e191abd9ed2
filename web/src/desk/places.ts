import type { Schemas } from '../api/client'
import type { Opens } from '../live/live'

/** The places that screens have: one may have several, each with what it gives its parameters. */
export const placesOf = (screens: Schemas['Desk']['screens']) =>
  screens
    .filter((s) => !s.role)
    .flatMap((s) =>
      (s.entries.length ? s.entries : [{ name: s.name, args: undefined }]).map((e) => ({
        id: s.id,
        name: e.name,
        area: s.area,
        locked: s.locked,
        hidden: s.hidden,
        home: s.home,
        opens: { screen: s.id, args: e.args } as Opens,
      })),
    )
