<script setup lang="ts">
import { computed } from 'vue'
import { api, ask } from '../../api/client'
import SheetPick from '../../kit/SheetPick.vue'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import { useSheetPlan } from '../../kit/useSheetPlan'

// Fields for a book out of a spreadsheet, from a file or pasted.
const props = defineProps<{ book: string }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const { plan, problem, busy, apply, given } = useSheetPlan(
  (cells, apply) =>
    ask(
      api.POST('/api/projects/{project}/books/{book}/fields/sheet', {
        params: { path: { project: project.id, book: props.book }, query: { apply } },
        ...cells,
      }),
    ),
  () => emit('close'),
)
const made = computed(() => plan.value?.lines.filter((l) => !l.from && !l.problem).length ?? 0)
</script>

<template>
  <PlanBox
    :title="$t('book.sheet')"
    :why="$t('book.sheetWhy')"
    :plan="plan"
    :problem="problem"
    :busy="busy"
    :made="made"
    :act="$t('book.sheetTake', made)"
    @apply="apply"
    @close="emit('close')">
    <SheetPick :pick="$t('book.sheetFile')" :paste="$t('book.sheetPaste')" @given="given" />
  </PlanBox>
</template>
