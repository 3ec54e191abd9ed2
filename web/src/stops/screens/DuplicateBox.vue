<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask } from '../../api/client'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import type { Editor } from './useEditor'
import { usePlan } from './usePlan'

// The selection again and again, each for the next of a row: the number that
// steps in its tags steps in its texts too.
const props = defineProps<{ editor: Editor }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const elements = [...props.editor.selection.value]
const count = ref(1)
const columns = ref(100)
const gap = ref(16)
const of = ref<string>()
const step = ref(1)
const whole = (v: unknown) => Number.isInteger(v)

const { plan, problem, make } = usePlan([count, columns, gap, of, step], (apply) =>
  !whole(count.value) || !whole(columns.value) || !whole(step.value)
    ? undefined
    : ask(
        api.POST('/api/projects/{project}/plans/duplicates', {
          params: { path: project.path },
          body: {
            apply,
            plan: {
              screen: props.editor.doc.value!.id,
              elements,
              count: count.value,
              columns: columns.value,
              gap: Number(gap.value),
              of: of.value || undefined,
              step: step.value,
            },
          },
        }),
      ),
)
// What most of it refers to steps, as long as nothing else is chosen.
watch(plan, (p) => {
  if (p && of.value === undefined) of.value = p.of[0] ?? ''
})
async function act() {
  const made = await make()
  if (!made) return
  emit('close')
  await props.editor.load()
  props.editor.selection.value = new Set(made.made)
}
</script>

<template>
  <PlanBox
    :title="$t('menu.steps')"
    :about="$t('subst.selection', { n: elements.length })"
    :action="$t('duplicate.do', { n: count || 0 })"
    :ready="!!plan"
    :problem="problem"
    @close="emit('close')"
    @act="act">
    <div class="row">
      <label>
        {{ $t('duplicate.count') }}
        <input v-model.number="count" type="number" min="1" max="500" class="plain" autofocus />
      </label>
      <label>
        {{ $t('duplicate.columns') }}
        <input v-model.number="columns" type="number" min="1" max="500" class="plain" />
      </label>
      <label>
        {{ $t('duplicate.gap') }}
        <input v-model.number="gap" type="number" class="plain" />
      </label>
    </div>
    <div class="row">
      <label>
        {{ $t('duplicate.of') }}
        <select v-model="of" class="plain mono">
          <option value="">{{ $t('duplicate.nothing') }}</option>
          <option v-for="o in plan?.of ?? (of ? [of] : [])" :key="o" :value="o">{{ o }}</option>
        </select>
      </label>
      <label v-if="of">
        {{ $t('duplicate.step') }}
        <input v-model.number="step" type="number" class="plain" />
      </label>
    </div>
    <template v-if="plan?.lines.length" #lines>
      <div v-for="(l, i) in plan.lines" :key="i" :class="{ bad: l.problem }">
        {{ l.from }} → {{ l.path }}
        <span class="quiet">{{ l.problem }}</span>
      </div>
    </template>
  </PlanBox>
</template>
