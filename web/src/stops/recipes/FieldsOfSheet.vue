<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask } from '../../api/client'
import { asFile } from '../../api/upload'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import { usePlan } from './usePlan'

// Fields for a book out of a spreadsheet, from a file or pasted.
const props = defineProps<{ book: string }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const text = ref('')
const file = shallowRef<File>()
const body = () => file.value ?? new Blob([text.value])
const { plan, problem, busy, look, apply, clear } = usePlan(
  (apply) =>
    ask(
      api.POST('/api/projects/{project}/books/{book}/fields/sheet', {
        params: { path: { project: project.id, book: props.book }, query: { apply } },
        ...asFile(body()),
      }),
    ),
  () => emit('close'),
)
watch([refDebounced(text, 300), file], () => (body().size ? void look() : clear()))
const made = computed(() => plan.value?.lines.filter((l) => !l.from && !l.problem).length ?? 0)
function choose(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
}
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
      <label class="chip">
        {{ file?.name ?? $t('book.sheetFile') }}
        <input
          type="file"
          accept=".csv,.txt,.tsv,.xlsx"
          hidden
          :aria-label="$t('book.sheetFile')"
          @change="choose" />
      </label>
      <textarea
        v-if="!file"
        v-model="text"
        class="plain mono"
        rows="3"
        :placeholder="$t('book.sheetPaste')"
        :aria-label="$t('book.sheetPaste')"
        spellcheck="false" />
    </div>
  </PlanBox>
</template>

<style scoped>
.from {
  display: flex;
  gap: 10px;
  align-items: start;
}
textarea {
  flex: 1;
  min-height: 72px;
  font-size: 12px;
}
</style>
