<script setup lang="ts">
import { computed } from 'vue'
import RecipeCell from './RecipeCell.vue'
import type { Book, OpenBook } from './useBook'
import { useCells } from './useCells'

// One field of the recipe that is open, with its name, unit and limits.
const props = defineProps<{ book: Book; open: OpenBook; field: string }>()
const o = props.open
const cells = useCells(() => props.book, o)
const field = computed(() => props.book.fields.find((f) => f.id === props.field))
const column = computed(() => o.first.value)
const sheet = computed(() => o.sheets.value[0])
const wrong = computed(() => (field.value ? cells.wrong(field.value, sheet.value) : ''))
</script>

<template>
  <div v-if="field" class="box" :class="{ past: o.silent.value }">
    <span class="name" :title="field.help || undefined">
      {{ field.title }}
      <span v-if="!wrong" class="quiet">{{ field.unit }}</span>
      <span class="range" :class="wrong ? 'err' : 'quiet'" :role="wrong ? 'alert' : undefined" :title="wrong">
        {{ wrong || cells.limits(field, sheet) }}
      </span>
    </span>
    <RecipeCell
      v-if="column"
      v-bind="cells.cell(column, field, sheet)"
      :name="field.title"
      @put="o.put(column.key, field.id, $event, [field])" />
    <span v-else class="quiet">{{ $t('recipe.choose') }}</span>
  </div>
  <p v-else class="quiet">{{ $t('recipe.element.field') }}</p>
</template>

<style scoped>
.box {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 4px 8px;
  font-size: 14px;
}
.past {
  opacity: 0.6;
}
.name {
  display: flex;
  gap: 6px;
  font-size: 13px;
  white-space: nowrap;
}
.range {
  margin-left: auto;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 12px;
}
.box :deep(input),
.box :deep(select) {
  min-height: 34px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  padding: 0 10px;
}
</style>
