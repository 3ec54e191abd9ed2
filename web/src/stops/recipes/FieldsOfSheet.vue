<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { api, ask } from '../../api/client'
import { asFile } from '../../api/upload'
import SheetPick from '../../kit/SheetPick.vue'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import { usePlan } from './usePlan'

// Fields for a book out of a spreadsheet, from a file or pasted.
const props = defineProps<{ book: string }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const cells = shallowRef(new Blob())
const { plan, problem, busy, look, apply, clear } = usePlan(
  (apply) =>
    ask(
      api.POST('/api/projects/{project}/books/{book}/fields/sheet', {
        params: { path: { project: project.id, book: props.book }, query: { apply } },
        ...asFile(cells.value),
      }),
    ),
  () => emit('close'),
)
function given(blob: Blob) {
  cells.value = blob
  if (blob.size) void look()
  else clear()
}
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
    <div class="from">
      <SheetPick :pick="$t('book.sheetFile')" :paste="$t('book.sheetPaste')" @given="given" />
    </div>
  </PlanBox>
</template>

<style scoped>
.from {
  display: flex;
  gap: 10px;
  align-items: start;
}
</style>
