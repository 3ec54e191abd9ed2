<script setup lang="ts">
import { computed } from 'vue'
import RecipePage from './RecipePage.vue'
import type { Program } from './useBook'
import { useBooks } from './useBooks'

// A book of recipes in an element of a screen.
const props = defineProps<{
  project: string
  program: Program
  id: string
  only?: string
  list: boolean
  send: boolean
  edits: boolean
}>()
const { books } = useBooks(() => props.project, props.program)
const book = computed(() => {
  const b = books.value.find((x) => x.id === props.id)
  return b && (props.edits ? b : { ...b, mayWrite: false, mayApprove: false })
})
</script>

<template>
  <div class="book-page">
    <RecipePage
      v-if="book"
      :key="book.id + (only ?? '')"
      fingers
      :project="project"
      :program="program"
      :book="book"
      :only="only"
      :hide-list="!list"
      :hide-send="!send" />
    <p v-else class="quiet none">{{ $t(id ? 'recipe.element.gone' : 'recipe.element.none') }}</p>
  </div>
</template>

<style scoped>
.book-page {
  height: 100%;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  overflow: hidden;
  container-type: inline-size;
}
.none {
  padding: 0 12px;
}
</style>
