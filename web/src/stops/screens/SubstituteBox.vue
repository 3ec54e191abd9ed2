<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '../../api/client'
import { useProject } from '../../rail/project'
import PlanBox from './PlanBox.vue'
import type { Editor } from './useEditor'
import { usePlan } from './usePlan'

// Names replaced in what a screen, or the selection, refers to: each changed
// reference is shown with whether there is such a thing.
const props = defineProps<{ editor: Editor }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const router = useRouter()
const find = ref('')
const replace = ref('')
const copy = ref(true)
const name = ref('')
const elements = [...props.editor.selection.value]

const { plan, problem, make } = usePlan([find, replace, copy], (apply) =>
  !find.value
    ? undefined
    : ask(
        api.POST('/api/projects/{project}/plans/substitution', {
          params: { path: project.path },
          body: {
            apply,
            plan: {
              screen: props.editor.doc.value!.id,
              elements: props.editor.whole(elements),
              find: find.value,
              replace: replace.value,
              copy: copy.value,
              name: name.value,
            },
          },
        }),
      ),
)
async function act() {
  if (!(await make())) return
  emit('close')
  if (!copy.value || elements.length) return
  const fresh = project.screens.find(
    (s) => s.name === (name.value || props.editor.doc.value!.name.replaceAll(find.value, replace.value)),
  )
  if (fresh) void router.push({ name: 'screens', params: { project: project.id, id: fresh.id } })
}
</script>

<template>
  <PlanBox
    :title="$t('menu.substitute')"
    :about="
      elements.length
        ? $t('subst.selection', { n: elements.length })
        : $t('subst.screen', { name: editor.doc.value?.name })
    "
    :action="$t('subst.do', { n: plan?.total ?? 0 })"
    :ready="!!find && !!plan?.total"
    :problem="problem"
    @close="emit('close')"
    @act="act">
    <div class="row">
      <label>
        {{ $t('subst.find') }}
        <input v-model="find" class="plain mono" autofocus />
      </label>
      <label>
        {{ $t('subst.replace') }}
        <input v-model="replace" class="plain mono" />
      </label>
    </div>
    <label class="line">
      <input v-model="copy" type="checkbox" />
      {{ $t('subst.copy') }}
    </label>
    <label v-if="copy && !elements.length">
      {{ $t('subst.name') }}
      <input v-model="name" class="plain" />
    </label>
    <template v-if="plan" #lines>
      <div v-for="l in plan.lines" :key="l.from + l.path" :class="{ bad: l.problem }">
        {{ l.from }} → {{ l.path }}
        <span class="quiet">{{ l.problem }}</span>
      </div>
      <div v-if="!plan.total" class="quiet">{{ $t('subst.none') }}</div>
    </template>
  </PlanBox>
</template>
