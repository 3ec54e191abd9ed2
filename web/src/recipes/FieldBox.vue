<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { problemText } from './problem'
import RecipeCell from './RecipeCell.vue'
import type { Book, OpenBook } from './useBook'

// One field of the recipe that is open, with its name, unit and limits.
const props = defineProps<{ book: Book; open: OpenBook; field: string }>()
const { t } = useI18n({ useScope: 'global' })
const o = props.open
const at = computed(() => props.book.fields.findIndex((f) => f.id === props.field))
const field = computed(() => props.book.fields[at.value])
const column = computed(() => o.first.value)
const sheet = computed(() => o.sheets.value[0])
const cell = computed(() => sheet.value?.cells[at.value])
const text = computed(() => {
  const edited = o.edits.get(column.value?.key ?? '')
  return edited ? edited[props.field] : cell.value?.text
})
const wrong = computed(() =>
  (sheet.value?.problems ?? [])
    .filter((p) => p.field === props.field)
    .map((p) => problemText(t, p))
    .join('. '),
)
const enterable = computed(
  () =>
    props.book.mayWrite &&
    !!column.value &&
    !column.value.version &&
    column.value.target === undefined &&
    !field.value?.formula,
)
const limits = computed(() => {
  const c = cell.value
  return c?.low && c.high ? t('recipe.limits', { low: c.low, high: c.high }) : ''
})
</script>

<template>
  <div v-if="field" class="box" :class="{ past: o.silent.value }">
    <span class="name" :title="field.help || undefined">
      {{ field.title }}
      <span class="quiet">{{ field.unit }}</span>
      <span class="quiet range">{{ limits }}</span>
    </span>
    <RecipeCell
      v-if="column"
      :field="field"
      :cell="cell"
      :text="text"
      :enterable="enterable"
      :wrong="wrong"
      :told="column.target !== undefined"
      :name="field.title"
      :place="column.key + ' ' + field.id"
      @put="o.put(column.key, field.id, $event, [field])"
      @undo="o.undo(column.key)" />
    <span v-else class="quiet">{{ $t('recipe.choose') }}</span>
    <span v-if="wrong" class="err" role="alert">{{ wrong }}</span>
  </div>
  <p v-else class="quiet">{{ $t('recipe.element.field') }}</p>
</template>

<style scoped>
.box {
  display: flex;
  flex-direction: column;
  gap: 2px;
  font-size: 14px;
}
.past {
  opacity: 0.6;
}
.name {
  display: flex;
  gap: 6px;
  font-size: 13px;
}
.range {
  margin-left: auto;
}
.box :deep(input),
.box :deep(select) {
  min-height: 34px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  padding: 0 10px;
}
.err {
  font-size: 12px;
}
</style>
