/** How far back a small line beside a value reaches, in milliseconds. */
export const SPAN = 120_000
