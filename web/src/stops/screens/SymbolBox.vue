<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask } from '../../api/client'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import type { Editor } from './useEditor'
import { usePlan } from './usePlan'

// A symbol of the selection: what its tags become parameters of, and what it
// is repeated over where they have an index.
const props = defineProps<{ editor: Editor; repeat: boolean }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const catalogue = useCatalogue()
const { t } = useI18n()
const elements = [...props.editor.selection.value]
const first = props.editor.doc.value!.elements[elements[0]!]
const name = ref(
  first?.name || t('symbolOf.name', { n: project.screens.filter((s) => s.role === 'symbol').length + 1 }),
)
const repeat = ref<'' | 'last' | 'first' | 'every'>(props.repeat ? 'last' : '')

const { plan, problem, make } = usePlan([name, repeat], (apply) =>
  !name.value.trim()
    ? undefined
    : ask(
        api.POST('/api/projects/{project}/plans/symbol', {
          params: { path: project.path },
          body: {
            apply,
            plan: {
              screen: props.editor.doc.value!.id,
              elements,
              name: name.value.trim(),
              repeat: repeat.value || undefined,
            },
          },
        }),
      ),
)
async function act() {
  const made = await make()
  if (!made) return
  emit('close')
  await props.editor.load()
  props.editor.selection.value = new Set([made.element])
}
</script>

<template>
  <PlanBox
    :title="$t('menu.symbol')"
    :about="$t('symbolOf.about', { n: elements.length })"
    :action="$t('symbolOf.do')"
    :ready="!!plan"
    :problem="problem"
    @close="emit('close')"
    @act="act">
    <label>
      {{ $t('symbolOf.called') }}
      <input v-model="name" class="plain" autofocus />
    </label>
    <label v-if="plan?.indices || repeat">
      {{ $t('symbolOf.repeat') }}
      <select v-model="repeat" class="plain">
        <option value="">{{ $t('symbolOf.once') }}</option>
        <option value="last">
          {{ (plan?.indices ?? 0) > 1 ? catalogue.choiceTitle('last') : $t('symbolOf.all') }}
        </option>
        <template v-if="(plan?.indices ?? 0) > 1">
          <option value="first">{{ catalogue.choiceTitle('first') }}</option>
          <option value="every">{{ catalogue.choiceTitle('every') }}</option>
        </template>
      </select>
    </label>
    <template v-if="plan" #lines>
      <div v-for="p in plan.params" :key="p.name">
        {{ p.name }} = {{ p.given }}
        <span class="quiet">{{ p.type }}</span>
      </div>
      <div v-if="!plan.params.length" class="quiet">{{ $t('symbolOf.none') }}</div>
      <template v-if="plan.cells.length">
        <div class="quiet">{{ $t('symbolOf.cells', { n: plan.cells.length }) }}</div>
        <div v-for="c in plan.cells" :key="c">{{ c }}</div>
      </template>
    </template>
  </PlanBox>
</template>
