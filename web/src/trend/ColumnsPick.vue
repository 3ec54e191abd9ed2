<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { typedNumber } from '../kit/number'
import TypedInput from '../kit/TypedInput.vue'
import type { ViewColumn, ViewPen } from './pens'
import { word, type WordOf } from '../i18n/word'

// How the columns of a table stand: which are shown, in what order, and how their
// values are written.
const props = defineProps<{ pens: ViewPen[]; names: Map<string, string> }>()
const emit = defineEmits<{
  change: [tag: string, column: ViewColumn]
  order: [tag: string, before: string]
}>()
const { t } = useI18n({ useScope: 'global' })
const TEXTS = ['title', 'decimals', 'prefix', 'width'] as const
const CHOICES = {
  align: ['', 'left', 'centre', 'right'],
  colour: ['', 'ink', 'quiet', 'spruce', 'heat', 'low'],
} as const
const PARTS = ['align', 'colour'] as const satisfies (keyof typeof CHOICES)[]
const of = (pen: ViewPen): ViewColumn => pen.column ?? {}
/** Changes a column; what is nothing is left out. */
function set(pen: ViewPen, part: Partial<ViewColumn>) {
  const next = Object.entries({ ...of(pen), ...part }).filter(
    ([, v]) => v !== undefined && v !== '' && v !== false,
  )
  emit('change', pen.tag, Object.fromEntries(next))
}
const text = (e: Event) => (e.target as HTMLInputElement).value
function whole(text: string, most: number): number | undefined {
  const n = typedNumber(text)
  return n === undefined ? undefined : Math.min(most, Math.max(0, Math.round(n)))
}
/** What was typed, as a column has it. */
const typed = {
  title: (text: string) => text.trim(),
  prefix: (text: string) => text,
  decimals: (text: string) => whole(text, 6),
  width: (text: string) => whole(text, 600) || undefined,
}
function move(at: number, by: number) {
  const [pen, other] = [props.pens[at]!, props.pens[at + by]]
  if (!other) return
  if (by < 0) emit('order', pen.tag, other.tag)
  else emit('order', other.tag, pen.tag)
}
const label = (part: WordOf<'trend.column'>, pen: ViewPen) =>
  `${t(word('trend.column', part))}: ${props.names.get(pen.tag) ?? pen.tag}`
</script>

<template>
  <v-menu :close-on-content-click="false" location="top start">
    <template #activator="{ props: opens }">
      <button type="button" class="chip" v-bind="opens">{{ $t('trend.column.open') }}</button>
    </template>
    <div class="sheet">
      <table class="grid">
        <thead>
          <tr>
            <th v-for="p in ['shown', ...TEXTS, ...PARTS] as const" :key="p">
              {{ $t($word('trend.column', p)) }}
            </th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="(pen, i) in pens" :key="pen.tag">
            <td>
              <input
                type="checkbox"
                :checked="!of(pen).hidden"
                :aria-label="label('shown', pen)"
                @change="set(pen, { hidden: !($event.target as HTMLInputElement).checked })" />
            </td>
            <td v-for="p in TEXTS" :key="p">
              <TypedInput
                class="plain"
                :class="{ short: p !== 'title' }"
                :maxlength="p === 'title' ? 80 : 20"
                :value="of(pen)[p]"
                :placeholder="p === 'title' ? names.get(pen.tag) : ''"
                :aria-label="label(p, pen)"
                @change="set(pen, { [p]: typed[p](text($event)) })" />
            </td>
            <td v-for="(all, p) in CHOICES" :key="p">
              <select
                class="plain"
                :value="of(pen)[p] ?? ''"
                :aria-label="label(p, pen)"
                @change="set(pen, { [p]: text($event) })">
                <option v-for="c in all" :key="c" :value="c">{{ $t(`trend.${p}.` + (c || 'usual')) }}</option>
              </select>
            </td>
            <td class="move">
              <button
                type="button"
                class="bare"
                :disabled="!i"
                :aria-label="label('before', pen)"
                @click="move(i, -1)">
                ↑
              </button>
              <button
                type="button"
                class="bare"
                :disabled="i === pens.length - 1"
                :aria-label="label('after', pen)"
                @click="move(i, 1)">
                ↓
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </v-menu>
</template>

<style scoped>
.sheet {
  max-height: 60vh;
  overflow: auto;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
.short {
  width: 64px;
}
.move {
  white-space: nowrap;
}
.move button {
  min-width: 28px;
  min-height: 28px;
}
select,
input.plain {
  min-height: 30px;
  padding: 2px 6px;
}
</style>
