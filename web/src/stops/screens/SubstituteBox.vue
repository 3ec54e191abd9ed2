<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '../../api/client'
import WindowFrame from '../../kit/WindowFrame.vue'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'

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
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
const elements = () => [...props.editor.selection.value]

async function run(apply: boolean) {
  problem.value = ''
  if (!find.value) return
  try {
    const got = await ask(api.POST('/api/projects/{project}/plans/substitution', { params: { path: project.path }, body: { apply, plan: { screen: props.editor.doc.value!.id, elements: props.editor.whole(elements()), find: find.value, replace: replace.value, copy: copy.value, name: name.value } } }))
    plan.value = got
    if (!apply) return
    const made = copy.value && !elements().length
    await project.refresh()
    emit('close')
    const fresh = made ? project.screens.find((s) => s.name === (name.value || props.editor.doc.value!.name.replaceAll(find.value, replace.value))) : undefined
    if (fresh) void router.push({ name: 'screens', params: { project: project.id, id: fresh.id } })
  } catch (e) {
    problem.value = sentence(e)
  }
}
let timer = 0
watch([find, replace, copy], () => {
  clearTimeout(timer)
  timer = window.setTimeout(() => void run(false), 250)
})
</script>

<template>
  <div class="place">
    <WindowFrame :title="$t('menu.substitute')" @close="emit('close')">
      <form class="box" @submit.prevent="run(true)">
        <p class="quiet">{{ editor.selection.value.size ? $t('subst.selection', { n: editor.selection.value.size }) : $t('subst.screen', { name: editor.doc.value?.name }) }}</p>
        <div class="two"><label>{{ $t('subst.find') }}<input v-model="find" class="plain mono" autofocus /></label><label>{{ $t('subst.replace') }}<input v-model="replace" class="plain mono" placeholder="Kiln2" /></label></div>
        <label class="line"><input v-model="copy" type="checkbox" /> {{ $t('subst.copy') }}</label>
        <label v-if="copy && !editor.selection.value.size">{{ $t('subst.name') }}<input v-model="name" class="plain" /></label>
        <div v-if="plan" class="lines"><div v-for="l in plan.lines" :key="l.from + l.path" class="mono" :class="{ bad: l.problem }">{{ l.from }} → {{ l.path }} <span class="quiet">{{ l.problem }}</span></div><div v-if="!plan.total" class="quiet">{{ $t('subst.none') }}</div></div>
        <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
        <v-btn type="submit" color="primary" :disabled="!find || !plan?.total">{{ $t('subst.do', { n: plan?.total ?? 0 }) }}</v-btn>
      </form>
    </WindowFrame>
  </div>
</template>

<style scoped>
.place { position: absolute; left: 50%; top: 60px; transform: translateX(-50%); z-index: 9; }
.box { display: grid; gap: 10px; padding: 12px 16px 16px; width: 460px; }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; }
label { display: grid; font-size: 12px; color: var(--c-quiet); }
.line { display: flex; gap: 8px; align-items: center; }
.lines { max-height: 240px; overflow: auto; border: 1px solid var(--c-line); padding: 6px 8px; font-size: 12px; }
.bad { color: var(--c-error); }
p { margin: 0; }
</style>
