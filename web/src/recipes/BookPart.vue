<script setup lang="ts">
import { computed } from 'vue'
import FieldBox from './FieldBox.vue'
import RecipeButton from './RecipeButton.vue'
import RecipeList from './RecipeList.vue'
import RecipePage from './RecipePage.vue'
import RecipeSheet from './RecipeSheet.vue'
import SaveBar from './SaveBar.vue'
import SendPane from './SendPane.vue'
import TargetList from './TargetList.vue'
import type { Book, Program } from './useBook'
import { useOpenBook } from './useOpenBook'
import type { WordOf } from '../i18n/word'

// One part of a book in an element of a screen; all parts of one book on a page have
// in common what is open and edited.
const props = defineProps<{
  project: string
  program: Program
  book: Book
  part: 'page' | 'list' | 'table' | 'targets' | 'send' | 'field' | 'button'
  /** What the element says: see its kind. */
  says: Record<string, unknown>
  only?: string
  send: boolean
}>()
const { open, deliveries } = useOpenBook(props.project, props.program, props.book.id, () => props.book)
const text = (name: string) => String(props.says[name] ?? '')
if (props.part === 'list') {
  if (text('filter') === 'approved') open.state.value = 'approved'
  if (text('filter') === 'not approved') open.state.value = 'draft'
  open.order.value = text('order') === 'last changed' ? 'changed' : ''
}
const sends = computed(() => props.send && props.book.released)
const why = computed(() => (props.book.released ? 'recipe.notHere' : 'recipe.notReleased'))
</script>

<template>
  <RecipePage
    v-if="part === 'page'"
    fingers
    :project="project"
    :program="program"
    :book="book"
    :only="only"
    :hide-list="!says.list"
    :hide-send="!says.send || !send" />
  <div v-else class="part fingers" :class="part">
    <RecipeList
      v-if="part === 'list'"
      :book="book"
      :open="open"
      :states="deliveries.states.value"
      :searched="!!says.searched"
      :ticks="!!says.ticked"
      :marked="!!says.marked"
      :signed="!!says.signed" />
    <template v-else-if="part === 'table'">
      <RecipeSheet
        v-if="open.columns.value.length"
        :book="book"
        :open="open"
        :only="text('fields')"
        :rows="!!says.across" />
      <p v-else class="quiet none">{{ $t('recipe.choose') }}</p>
      <SaveBar :open="open" />
    </template>
    <FieldBox v-else-if="part === 'field'" :book="book" :open="open" :field="text('field')" />
    <RecipeButton
      v-else-if="part === 'button'"
      :book="book"
      :open="open"
      :deliveries="deliveries"
      :does="text('does') as WordOf<'recipe.button'>"
      :caption="text('caption')"
      :only="only"
      :send="sends" />
    <p v-else-if="!sends" class="quiet none">{{ $t(why) }}</p>
    <TargetList
      v-else-if="part === 'targets'"
      :book="book"
      :open="open"
      :deliveries="deliveries"
      :only="only" />
    <SendPane v-else :book="book" :open="open" :deliveries="deliveries" :only="only" />
  </div>
</template>

<style scoped>
.part {
  height: 100%;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.part.targets,
.part.send {
  padding: 10px 14px;
  overflow: auto;
}
.none {
  padding: 10px 14px;
}
</style>
