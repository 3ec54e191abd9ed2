import createClient from 'openapi-fetch'
import { i18n } from '../i18n'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']
export type Op = Schemas['Op']
export type Tag = Schemas['Tag']
export type TagRow = Schemas['TagRow']
export type Device = Schemas['Device']
export type LinkStatus = Schemas['LinkStatus']
export type Screen = Schemas['Screen']
export type Element = Schemas['Element']
export type Kind = Schemas['Kind']
export type Prop = Schemas['Prop']
export type Finding = Schemas['FindingInfo']
export type Me = Schemas['Me']

export const api = createClient<paths>({ baseUrl: '/' })

// The server answers in the language of the page.
api.use({
  onRequest({ request }) {
    request.headers.set('Accept-Language', i18n.global.locale.value)
    return request
  },
})

/** A refusal by the server, with its sentence and what it is about. */
export class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail || problem.title)
  }
}

/** Is told when the server says that nobody is signed in any more. */
export const signedOut = { tell: () => {} }

/** Unwraps an answer: its content, or a Refused. */
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got: Awaited<typeof answer>
  try {
    got = await answer
  } catch {
    throw new Refused({ status: 0, title: 'No answer', detail: i18n.global.t('shell.unanswered') })
  }
  if (got.error !== undefined || !got.response.ok) {
    const e = got.error as Partial<Problem> | undefined
    if (got.response.status === 401) signedOut.tell()
    throw new Refused({
      status: got.response.status,
      title: e?.title ?? '',
      detail: e?.detail ?? got.response.statusText,
      refusal: e?.refusal,
      roles: e?.roles,
      right: e?.right,
    })
  }
  return got.data as T
}

/** The sentence of any error. */
export function sentence(e: unknown): string {
  return e instanceof Error ? e.message : String(e)
}
