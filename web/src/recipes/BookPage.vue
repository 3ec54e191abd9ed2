<script setup lang="ts">
import { computed } from 'vue'
import { useSession } from '../api/session'
import BookPart from './BookPart.vue'
import type { Program } from './useBook'
import { useBooks } from './useBooks'

// A book of recipes, or a part of one, in an element of a screen.
const props = defineProps<{
  project: string
  program: Program
  part: 'page' | 'list' | 'table' | 'targets' | 'send' | 'field' | 'button'
  id: string
  says: Record<string, unknown>
  only?: string
  send: boolean
  edits: boolean
}>()
const session = useSession()
/** Another person at the panel has other rights, and nothing of what this one has open. */
const who = computed(() => session.me?.person?.id ?? '')
const { books } = useBooks(
  () => props.project,
  props.program,
  () => who.value,
)
const book = computed(() => {
  const b = books.value.find((x) => x.id === props.id)
  return b && (props.edits ? b : { ...b, mayWrite: false, mayApprove: false })
})
/** What stands on the screen itself, and not in a frame of its own. */
const bare = computed(() => props.part === 'field' || props.part === 'button')
</script>

<template>
  <div class="book-page" :class="{ bare }">
    <BookPart
      v-if="book"
      :key="[book.id, only, who].join()"
      :project="project"
      :program="program"
      :book="book"
      :part="part"
      :says="says"
      :only="only"
      :send="send" />
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
.bare {
  background: none;
  border: 0;
}
.none {
  padding: 0 12px;
}
</style>
