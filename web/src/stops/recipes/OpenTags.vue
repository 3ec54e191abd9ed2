<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import { usePlan } from '../../kit/usePlan'
import { useProject } from '../../rail/project'
import { folderName } from './folderName'
import PlanBox from './PlanBox.vue'

// Tags by which any element shows and edits the recipe that is open at a page.
const props = defineProps<{ book: string; name: string }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const folder = ref(folderName(props.name) + '.Open')
const { plan, problem, busy, look, apply } = usePlan(
  (apply) =>
    ask(
      api.POST('/api/projects/{project}/plans/open-recipe', {
        params: { path: project.path },
        body: { apply, plan: { book: props.book, folder: folder.value.trim() } },
      }),
    ),
  () => emit('close'),
)
watch(refDebounced(folder, 250), () => void look(), { immediate: true })
const made = computed(() => plan.value?.lines.filter((l) => !l.from && !l.problem).length ?? 0)
</script>

<template>
  <PlanBox
    :title="$t('book.openTitle')"
    :why="$t('book.openWhy')"
    :plan="plan"
    :problem="problem"
    :busy="busy"
    :made="made"
    :act="$t('book.openMake', made)"
    @apply="apply"
    @close="emit('close')">
    <FieldText :label="$t('book.blockFolder')" mono :model-value="folder" @typing="folder = $event" />
  </PlanBox>
</template>
