import { useLocalStorage } from '@vueuse/core'
import type { Op, Tag, TagRow } from '../../api/client'
import type { WordOf } from '../../i18n/word'

/** A column of the list: how wide it is, and what an edit of its cell means. */
export interface Column {
  key: WordOf<'tags.column'>
  width: string
  sort?: 'path' | 'type' | 'address' | 'uses' | 'source' | 'check' | 'description'
  right?: boolean
  /** The text that an edit begins with; none where the cell is not edited. */
  text?: (r: TagRow) => string
  /** The ops of an edited cell; a string is why the text is refused. */
  ops?: (r: TagRow, text: string) => Op[] | string
}

const set = (r: TagRow, field: keyof Tag, value: unknown): Op[] => [
  { kind: 'tag', id: r.tag.id, path: '/' + field, value: value === '' ? undefined : value },
]
const plain = (field: keyof Tag) => ({
  text: (r: TagRow) => String(r.tag[field] ?? ''),
  ops: (r: TagRow, t: string) => set(r, field, t.trim()),
})
const number = (field: keyof Tag) => ({
  text: (r: TagRow) => String(r.tag[field] ?? ''),
  ops: (r: TagRow, t: string) => {
    const s = t.trim()
    const n = Number(s.replace(',', '.'))
    return s === '' ? set(r, field, undefined) : Number.isFinite(n) ? set(r, field, n) : s
  },
})

export const columns: Column[] = [
  {
    key: 'path',
    width: 'minmax(146px, 2fr)',
    sort: 'path',
    text: (r) => r.tag.name,
    ops: (r, t) => set(r, 'name', t.trim()),
  },
  { key: 'description', width: 'minmax(110px, 1.2fr)', sort: 'description', ...plain('description') },
  {
    key: 'type',
    width: '58px',
    sort: 'type',
    text: (r) => r.tag.type,
    ops: (r, t) => set(r, 'type', t.trim().toUpperCase()),
  },
  { key: 'from', width: '70px', sort: 'source' },
  {
    key: 'address',
    width: 'minmax(92px, 1fr)',
    sort: 'address',
    text: (r) =>
      (r.tag.source === 'computed'
        ? r.tag.formula
        : r.tag.source === 'internal'
          ? r.tag.initial
          : r.tag.address) ?? '',
    ops: (r, t) =>
      set(
        r,
        r.tag.source === 'computed' ? 'formula' : r.tag.source === 'internal' ? 'initial' : 'address',
        t.trim(),
      ),
  },
  {
    key: 'access',
    width: '74px',
    text: (r) => r.tag.access ?? '',
    ops: (r, t) => set(r, 'access', t.trim().toLowerCase()),
  },
  { key: 'poll', width: '58px', right: true, ...number('poll') },
  { key: 'raw', width: '70px', right: true },
  { key: 'value', width: '86px', right: true },
  { key: 'unit', width: '46px', ...plain('unit') },
  { key: 'quality', width: '64px' },
  { key: 'age', width: '52px', right: true },
  { key: 'decimals', width: '44px', right: true, ...number('decimals') },
  { key: 'low', width: '58px', right: true, ...number('low') },
  { key: 'high', width: '58px', right: true, ...number('high') },
  { key: 'step', width: '50px', right: true, ...number('step') },
  { key: 'check', width: '72px', sort: 'check' },
  { key: 'used', width: '58px', right: true, sort: 'uses' },
]

const usual = ['path', 'type', 'from', 'address', 'value', 'unit', 'age', 'used']

/** The columns that this browser shows, in their order. */
export const shownColumns = useLocalStorage<string[]>('rr-tag-columns', usual)
