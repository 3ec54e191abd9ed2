<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import { neighbour, picked, type Column } from './columns'
import { problemText } from './problem'
import RecipeCell from './RecipeCell.vue'
import RecipeMark from './RecipeMark.vue'
import type { Book, OpenBook, Sheet } from './useBook'
import { useCells } from './useCells'

// Recipes and targets side by side, edited in place like a spreadsheet; fields go
// down or across.
const props = defineProps<{
  book: Book
  open: OpenBook
  /** Patterns of the names of the fields that show; all where there is none. */
  only?: string
  /** Recipes are rows to begin with. */
  rows?: boolean
}>()
const o = props.open
const cells = useCells(() => props.book, o)
const shown = computed(() => picked(props.book.fields, props.only ?? ''))
const { t } = useI18n({ useScope: 'global' })
const across = ref(!!props.rows)
const table = useTemplateRef<HTMLElement>('table')

const columns = computed(() =>
  o.columns.value.map((column, i) => ({ column, sheet: o.sheets.value[i] as Schemas['Sheet'] | undefined })),
)
const groups = computed(() => {
  const out: { name: string; fields: Schemas['FieldShown'][] }[] = []
  shown.value.forEach((field) => {
    if (out[out.length - 1]?.name !== field.group) out.push({ name: field.group, fields: [] })
    out[out.length - 1]!.fields.push(field)
  })
  return out
})
const title = (c: Column, sheet?: Schemas['Sheet']) =>
  c.target !== undefined
    ? t('recipe.now', { place: props.book.targets.find((x) => x.id === c.target)?.path ?? '' })
    : (c.name ?? sheet?.name ?? '')
/** What does not hold over several fields. */
const checks = computed(() =>
  columns.value.flatMap(({ column, sheet }) =>
    (sheet?.problems ?? [])
      .filter((p) => !p.field)
      .map((p) => `${title(column, sheet)}: ${problemText(t, p)}`),
  ),
)
/** The sheet whose limits stand beside the fields: the first of a recipe. */
const limiting = computed(() => columns.value.find((c) => c.column.target === undefined)?.sheet)
async function go(c: Column, f: Schemas['FieldShown'], down: number, right: number) {
  const at = { key: c.key, field: f.id }
  const [fields, over] = across.value ? [right, down] : [down, right]
  const next = neighbour(o.columns.value, shown.value, at, fields, over)
  await nextTick()
  if (next)
    table.value
      ?.querySelector<HTMLElement>(`[data-cell="${CSS.escape(next.key + ' ' + next.field)}"]`)
      ?.focus()
}
/** Takes the value of the cell above or to the left. */
function fill(c: Column, f: Schemas['FieldShown'], from: 'above' | 'left') {
  const byField = (from === 'above') !== across.value
  const at = { key: c.key, field: f.id }
  const source = neighbour(o.columns.value, shown.value, at, byField ? -1 : 0, byField ? 0 : -1)
  const column = source && o.columns.value.find((x) => x.key === source.key)
  if (column) o.put(c.key, f.id, [[o.valuesOf(column)[source.field] ?? '']])
}
/** What a cell shows and does. */
const bound = (c: Column, sheet: Sheet | undefined, f: Schemas['FieldShown'], group: string) => ({
  ...cells.cell(c, f, sheet),
  name: `${group} ${f.title}, ${title(c, sheet)}`,
  onPut: (block: string[][]) => o.put(c.key, f.id, block, shown.value),
  onGo: (down: number, right: number) => go(c, f, down, right),
  onFill: (from: 'above' | 'left') => fill(c, f, from),
})
</script>

<template>
  <div class="sheet">
    <p v-if="o.silent.value" class="problem" role="status">{{ $t('recipe.silent') }}</p>
    <div ref="table" class="scroll" :class="{ past: o.silent.value }">
      <table v-if="!across" class="grid">
        <thead>
          <tr>
            <th class="field">{{ $t('recipe.field') }}</th>
            <th v-for="{ column: c, sheet } in columns" :key="c.key" class="col">
              <span class="head">
                <span class="title" :title="title(c, sheet)">{{ title(c, sheet) }}</span>
                <RecipeMark
                  v-if="sheet?.state && !o.edits.has(c.key)"
                  :state="sheet.state"
                  :version="sheet.version" />
                <span v-else-if="o.edits.has(c.key)" class="warn">{{ $t('recipe.edited') }}</span>
                <button
                  class="bare"
                  :aria-label="$t('recipe.close', { name: title(c, sheet) })"
                  @click="o.drop(c.key)">
                  <v-icon :icon="mdiClose" size="15" />
                </button>
              </span>
            </th>
            <th>{{ $t('recipe.unit') }}</th>
            <th>{{ $t('recipe.limit') }}</th>
            <th class="rest">
              <button class="chip" @click="across = true">{{ $t('recipe.across') }}</button>
            </th>
          </tr>
        </thead>
        <tbody v-for="g in groups" :key="g.name">
          <tr v-if="g.name" class="group">
            <th :colspan="columns.length + 4">{{ g.name }}</th>
          </tr>
          <tr v-for="f in g.fields" :key="f.id">
            <td class="field" :title="f.help || f.place || undefined">{{ f.title }}</td>
            <td v-for="{ column: c, sheet } in columns" :key="c.key" class="col">
              <RecipeCell v-bind="bound(c, sheet, f, g.name)" />
            </td>
            <td class="quiet">{{ f.unit }}</td>
            <td class="quiet">{{ cells.limits(f, limiting) }}</td>
            <td></td>
          </tr>
        </tbody>
      </table>
      <table v-else class="grid">
        <thead>
          <tr>
            <th class="field" rowspan="2">
              <button class="chip" @click="across = false">{{ $t('recipe.down') }}</button>
            </th>
            <th v-for="g in groups" :key="g.name" :colspan="g.fields.length">{{ g.name }}</th>
          </tr>
          <tr class="second">
            <template v-for="g in groups" :key="g.name">
              <th v-for="f in g.fields" :key="f.id" class="col" :title="cells.limits(f, limiting)">
                {{ f.title }}
                <span class="quiet">{{ f.unit }}</span>
              </th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ column: c, sheet } in columns" :key="c.key">
            <td class="field">
              <span class="head">
                <span class="title" :title="title(c, sheet)">{{ title(c, sheet) }}</span>
                <RecipeMark v-if="sheet?.state" :state="sheet.state" :version="sheet.version" />
              </span>
            </td>
            <template v-for="g in groups" :key="g.name">
              <td v-for="f in g.fields" :key="f.id" class="col">
                <RecipeCell v-bind="bound(c, sheet, f, g.name)" />
              </td>
            </template>
          </tr>
        </tbody>
      </table>
    </div>
    <ul v-if="checks.length" class="checks" role="status">
      <li v-for="c in checks" :key="c" class="err">{{ c }}</li>
    </ul>
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  flex: 1;
}
.scroll {
  overflow: auto;
  flex: 1;
  min-height: 0;
}
.past {
  opacity: 0.6;
}
table.grid {
  width: auto;
  min-width: 100%;
}
.grid td {
  padding: 0 8px;
}
.grid td.col {
  padding: 0;
  min-width: 92px;
  width: 130px;
  position: relative;
}
.grid th.col {
  text-align: right;
}
.grid .field {
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--c-sheet);
  min-width: 130px;
}
.grid th.field {
  z-index: 2;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 6px;
  justify-content: flex-end;
}
th .title {
  flex: 1 1 96px;
  font-weight: 700;
  font-size: 13px;
}
td .head {
  justify-content: flex-start;
}
.title {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--c-ink);
}
.group th {
  position: static;
  background: var(--c-paper);
  color: var(--c-ink);
  font-weight: 700;
  font-size: 13px;
}
.second th {
  top: 28px;
}
.rest {
  width: 40%;
  text-align: right;
}
.checks {
  margin: 0;
  padding: 8px 16px;
  list-style: none;
  border-top: 1px solid var(--c-line);
  max-height: 120px;
  overflow: auto;
}
.problem {
  margin: 8px 16px;
}
</style>
