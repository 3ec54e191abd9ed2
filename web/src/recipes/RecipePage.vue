<script setup lang="ts">
import { computed, watch } from 'vue'
import NameBox from '../kit/NameBox.vue'
import BringIn from './BringIn.vue'
import LastDeliveries from './LastDeliveries.vue'
import RecipeList from './RecipeList.vue'
import RecipeSheet from './RecipeSheet.vue'
import SaveBar from './SaveBar.vue'
import SendPane from './SendPane.vue'
import TargetList from './TargetList.vue'
import type { Book, Program } from './useBook'
import { useOpenBook } from './useOpenBook'
import VersionList from './VersionList.vue'

// A book that is worked in: its recipes, their values side by side with what the
// devices have, and sending. Used at its stop and on screens.
const props = defineProps<{
  project: string
  program: Program
  book: Book
  /** Id of the one target that is shown; all where it is not given. */
  only?: string
  /** On a screen: large enough for fingers. */
  fingers?: boolean
  /** Id of a recipe that is to be opened. */
  asked?: string
  hideList?: boolean
  hideSend?: boolean
}>()
const { open, deliveries } = useOpenBook(props.project, props.program, props.book.id, () => props.book)
watch(
  () => props.asked,
  (id) => id && open.open(id),
  { immediate: true },
)
const first = computed(() => open.sheets.value[0])
const copyOf = (name: string) =>
  open.begin(name, first.value ? { ...open.valuesOf(open.first.value!) } : undefined)
defineExpose({ open })
</script>

<template>
  <div class="work" :class="{ fingers }">
    <div v-if="!hideList" class="side">
      <slot name="books" />
      <RecipeList :book="book" :open="open" :states="deliveries.states.value" />
    </div>
    <div class="middle">
      <div class="tools">
        <template v-if="book.mayWrite">
          <NameBox :label="$t('recipe.new')" :hint="$t('recipe.newName')" @named="open.begin($event)" />
          <NameBox
            v-if="first && open.first.value?.target === undefined"
            :label="$t('recipe.copy')"
            :hint="$t('recipe.newName')"
            @named="copyOf" />
          <NameBox
            v-if="first?.recipe"
            :label="$t('recipe.rename')"
            :hint="$t('recipe.newName')"
            @named="open.rename(first!.recipe, $event)" />
        </template>
        <BringIn v-if="!fingers" :project="project" :program="program" :book="book" :open="open" />
      </div>
      <RecipeSheet v-if="open.columns.value.length" :book="book" :open="open" />
      <div v-else class="empty">
        <h2>{{ $t('recipe.choose') }}</h2>
        {{ $t(open.page.value.count ? 'recipe.chooseHint' : 'recipe.noneHint') }}
      </div>
      <SaveBar :open="open" />
    </div>
    <div v-if="!hideSend" class="right">
      <template v-if="book.released">
        <SendPane :book="book" :open="open" :deliveries="deliveries" :only="only" />
        <TargetList :book="book" :open="open" :deliveries="deliveries" :only="only" />
      </template>
      <p v-else class="quiet">{{ $t('recipe.notReleased') }}</p>
      <section v-if="first?.recipe">
        <VersionList
          :project="project"
          :program="program"
          :book="book"
          :open="open"
          :recipe="first.recipe"
          :latest="first.latest"
          :state="first.state" />
      </section>
      <LastDeliveries v-if="book.released" :deliveries="deliveries" :only="only" :most="6" />
    </div>
  </div>
</template>

<style scoped>
.work {
  display: flex;
  flex: 1;
  min-height: 0;
  height: 100%;
  background: var(--c-sheet);
}
.side {
  width: 236px;
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid var(--c-line);
}
.middle {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--c-line);
}
.tools:empty {
  display: none;
}
.right {
  width: 286px;
  flex: none;
  overflow: auto;
  border-left: 1px solid var(--c-line);
  padding: 12px 14px;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
/* On a small panel the parts lie below one another. */
@container (max-width: 960px) {
  .work {
    flex-direction: column;
    overflow: auto;
  }
  .side,
  .right {
    width: auto;
    border: 0;
    overflow: visible;
  }
  .side {
    flex: 0 0 auto;
    max-height: 260px;
    overflow: auto;
  }
  .middle {
    flex: 0 0 auto;
    max-height: 380px;
  }
}
</style>
