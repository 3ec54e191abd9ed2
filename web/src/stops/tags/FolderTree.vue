<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

// The tree of folders; choosing one narrows the list, F2 renames it.
const model = defineModel<string>({ required: true })
const emit = defineEmits<{ path: [path: string] }>()
const project = useProject()
const { t } = useI18n()
const folders = shallowRef<Schemas['FolderInfo'][]>([])
const open = ref(new Set<string>())
const renaming = ref('')

watch(() => project.version, async () => {
  folders.value = await ask(api.GET('/api/projects/{project}/folders', { params: { path: project.path } })).catch(() => folders.value)
  if (model.value && !folders.value.some((f) => f.id === model.value)) model.value = ''
}, { immediate: true })
watch([model, folders], () => emit('path', folders.value.find((f) => f.id === model.value)?.path ?? ''))

type Line = Schemas['FolderInfo'] & { depth: number; kids: boolean }
const lines = computed(() => {
  const out: Line[] = []
  const walk = (parent: string, depth: number) => {
    for (const f of folders.value.filter((x) => x.parent === parent)) {
      const kids = folders.value.some((x) => x.parent === f.id)
      out.push({ ...f, depth, kids })
      if (open.value.has(f.id)) walk(f.id, depth + 1)
    }
  }
  walk('', 0)
  return out
})
function toggle(id: string) {
  const next = new Set(open.value)
  if (!next.delete(id)) next.add(id)
  open.value = next
}
async function rename(f: Line, e: Event) {
  const name = (e.target as HTMLInputElement).value.trim()
  renaming.value = ''
  if (name && name !== f.name) await project.edit(t('tags.renamed', { name }), [{ kind: 'folder', id: f.id, path: '/name', value: name, was: f.name }])
}
</script>

<template>
  <nav class="tree" :aria-label="$t('tags.folders')">
    <button class="line root" :class="{ on: !model }" @click="model = ''"><span class="n">{{ project.overview?.site.name.split(' ')[0] }}</span><span class="mono small quiet">{{ project.overview?.stops.find((s) => s.stop === 'tags')?.things }}</span></button>
    <div v-for="f in lines" :key="f.id" class="line" :class="{ on: model === f.id }" :style="{ paddingLeft: 10 + f.depth * 16 + 'px' }">
      <button v-if="f.kids" class="bare fold" :aria-label="$t('tags.fold')" :aria-expanded="open.has(f.id)" @click="toggle(f.id)"><v-icon :icon="open.has(f.id) ? mdiChevronDown : mdiChevronRight" size="16" /></button><span v-else class="fold" />
      <input v-if="renaming === f.id" class="plain" :value="f.name" autofocus @keydown.enter="rename(f, $event)" @keydown.esc="renaming = ''" @blur="rename(f, $event)" />
      <button v-else class="bare n" @click="model = f.id" @dblclick="renaming = f.id" @keydown.f2="renaming = f.id">{{ f.name }}</button>
      <span class="mono small quiet">{{ f.tags }}</span>
    </div>
  </nav>
</template>

<style scoped>
.tree { flex: none; border-right: 1px solid var(--c-line); background: var(--c-sheet); overflow: auto; padding: 10px 0; }
.line { display: flex; align-items: center; gap: 4px; min-height: 28px; padding: 0 10px; width: 100%; box-sizing: border-box; background: none; border: 0; text-align: left; color: inherit; }
.line.on { background: var(--c-tint); font-weight: 650; }
.line.root { cursor: pointer; }
.n { flex: 1; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; line-height: 28px; }
.fold { width: 16px; flex: none; }
.small { font-size: 12px; font-weight: 400; }
</style>
