import { computed, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { word } from '../../i18n/word'
import { useProject } from '../../rail/project'
import { useBooks } from '../../recipes/useBooks'
import { useFolders } from '../../tags/useFolders'

export type Rule = Schemas['RuleRow']
type Asks = Schemas['Asking']

/** What may be chosen of things, or none of them. */
export const choice = (list: readonly { id: string; name: string }[], none: string) => [
  { value: '', title: none },
  ...list.map((x) => ({ value: x.id, title: x.name })),
]

/** The rules of the draft while they are shown, with what they name and how they read. */
export function useRules(shown: () => boolean) {
  const project = useProject()
  const { t } = useI18n()
  const told = shallowRef<Rule[]>([])
  const rules = computed(() => told.value.map((r) => project.latest('rule', r.id, r)))
  const roles = shallowRef<Schemas['Role'][]>([])
  const types = shallowRef<{ id: string; name: string }[]>([])
  const { folders } = useFolders()
  const { books } = useBooks(
    () => (shown() ? project.id : ''),
    'draft',
    () => project.versionOf('book'),
  )
  const path = () => ({ params: { path: project.path } })
  /** Asks anew as something changes that the answer depends on, while it is shown. */
  const follow = (version: () => number, load: () => Promise<void>) =>
    watch(
      () => (shown() ? version() : undefined),
      (now) => now !== undefined && void load(),
      { immediate: true },
    )
  follow(
    () => project.versionOf('rule', 'tag', 'type', 'equipment', 'book', 'site', 'paths'),
    async () => {
      told.value = await ask(api.GET('/api/projects/{project}/rules', path())).catch(() => told.value)
    },
  )
  follow(
    () => project.versionOf('role'),
    async () => {
      roles.value = await ask(api.GET('/api/projects/{project}/roles', path())).catch(() => roles.value)
    },
  )
  follow(
    () => project.versionOf('type'),
    async () => {
      types.value = await ask(api.GET('/api/projects/{project}/types', path())).catch(() => types.value)
    },
  )
  const areas = computed(() => project.overview?.site.areas ?? [])
  const named = (list: { id: string; name: string }[], id = '') => list.find((x) => x.id === id)?.name ?? id

  /** What is asked, in words: each a phrase. Of a rule that was just made it is not told yet. */
  function phrases(a?: Asks): string[] {
    const out: string[] = []
    if (!a) return out
    if (a.confirm) out.push(t('rules.confirm'))
    if (a.reason) {
      const n = a.reasons?.length ?? 0
      out.push(t(word('rules.reason', a.reason)) + (n ? ', ' + t('rules.fromList', { n }) : ''))
    }
    if (a.sign) {
      const by = (a.roles ?? []).map((r) => t('rules.by', { role: named(roles.value, r) }))
      const meaning = (a.meanings ?? []).map((text) => t('rules.meaning', { text }))
      out.push([t(word('rules.sign', a.sign)), ...by, ...meaning].join(', '))
    }
    if (a.capture?.length) out.push(t('rules.keeps', { n: a.capture.length }, a.capture.length))
    return out
  }
  /** Where a rule applies, in words. */
  const where = (r: Rule) =>
    [
      r.area && named(areas.value, r.area),
      r.folder && (folders.value.find((f) => f.id === r.folder)?.path ?? r.folder),
      r.type && named(types.value, r.type),
      r.tag && (r.path || r.tag),
      r.book && named(books.value, r.book),
    ].filter(Boolean)
  return { rules, roles, types, folders, books, areas, named, phrases, where }
}
export type Rules = ReturnType<typeof useRules>
