import type { Schemas } from '../api/client'
import { word } from '../i18n/word'

/** What does not hold, in a sentence. */
export function problemText(
  t: (key: string, args?: Record<string, unknown>) => string,
  p: Schemas['Breach'],
): string {
  const args = p.args ?? {}
  if (p.rule === 'untold' && args.what === 'check') return t('recipe.problem.untoldCheck', args)
  return t(word('recipe.problem', p.rule), args)
}
