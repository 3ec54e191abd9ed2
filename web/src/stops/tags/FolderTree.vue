<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight, mdiDotsVertical } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import RenameField from '../../kit/RenameField.vue'
import { useProject } from '../../rail/project'
import { useWhere } from '../../rail/where'
import { useFolders, type Folder } from '../../tags/useFolders'
import ExportTicked from './ExportTicked.vue'
import FolderRecording from './FolderRecording.vue'

// The tree of folders; choosing one narrows the list, F2 renames it. Those that
// are ticked are exported together.
const model = defineModel<string>({ required: true })
const emit = defineEmits<{ path: [path: string]; work: [what: 'copy' | 'move'] }>()
const project = useProject()
const { where } = useWhere()
const { t } = useI18n()
const open = ref(new Set<string>())
const renaming = ref('')
const recording = ref('')
const ticked = ref(new Set<string>())

const { folders, inside } = useFolders((there) => {
  if (model.value && !there.has(model.value)) model.value = ''
  ticked.value = new Set([...ticked.value].filter((id) => there.has(id)))
})
const recorded = computed(() => folders.value.find((f) => f.id === recording.value))
watch([model, folders], () => emit('path', folders.value.find((f) => f.id === model.value)?.path ?? ''))

type Line = Folder & { depth: number; kids: boolean }
const lines = computed(() => {
  const out: Line[] = []
  const walk = (parent: string, depth: number) => {
    for (const f of inside.value.get(parent) ?? []) {
      out.push({ ...f, depth, kids: inside.value.has(f.id) })
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
function tick(id: string) {
  const next = new Set(ticked.value)
  if (!next.delete(id)) next.add(id)
  ticked.value = next
}
const uses = shallowRef<{ id: string; list: Schemas['Use'][] }>()
async function whereUsed(id: string) {
  uses.value = {
    id,
    list: await ask(
      api.GET('/api/projects/{project}/folder-uses/{id}', { params: { path: { ...project.path, id } } }),
    ).catch(() => []),
  }
}
function work(id: string, what: 'copy' | 'move') {
  model.value = id
  emit('work', what)
}
async function remove(f: Line) {
  const gone = [f.id]
  for (const id of gone) gone.push(...(inside.value.get(id) ?? []).map((x) => x.id))
  const tags = await ask(
    api.GET('/api/projects/{project}/tag-ids', { params: { path: project.path, query: { folder: f.id } } }),
  )
  if (model.value === f.id) model.value = ''
  await project.edit(t('tags.folderDeleted', { name: f.path }), [
    ...tags.map((id) => ({ kind: 'tag', id, path: '' })),
    ...gone.reverse().map((id) => ({ kind: 'folder', id, path: '' })),
  ])
}
const rename = (f: Line, name: string) =>
  project.edit(t('tags.renamed', { name }), [
    { kind: 'folder', id: f.id, path: '/name', value: name, was: f.name },
  ])
</script>

<template>
  <nav class="tree" :aria-label="$t('tags.folders')">
    <button class="line root" :class="{ on: !model }" @click="model = ''">
      <span class="n">{{ project.overview?.site.name }}</span>
      <span class="mono small quiet">
        {{ project.overview?.stops.find((s) => s.stop === 'tags')?.things }}
      </span>
    </button>
    <div
      v-for="f in lines"
      :key="f.id"
      class="line"
      :class="{ on: model === f.id }"
      :style="{ paddingLeft: 10 + f.depth * 16 + 'px' }">
      <button
        v-if="f.kids"
        class="bare fold"
        :aria-label="$t('tags.fold')"
        :aria-expanded="open.has(f.id)"
        @click="toggle(f.id)">
        <v-icon :icon="open.has(f.id) ? mdiChevronDown : mdiChevronRight" size="16" />
      </button>
      <span v-else class="fold" />
      <RenameField
        v-if="renaming === f.id"
        :name="f.name"
        :label="$t('tags.rename')"
        @named="rename(f, $event)"
        @done="renaming = ''" />
      <button
        v-else
        class="bare n"
        @click="model = f.id"
        @dblclick="renaming = f.id"
        @keydown.f2="renaming = f.id">
        {{ f.name }}
      </button>
      <input
        type="checkbox"
        class="tick"
        :class="{ any: ticked.size }"
        :checked="ticked.has(f.id)"
        :aria-label="$t('tags.tickFolder', { name: f.name })"
        :title="$t('tags.tickFolder', { name: f.name })"
        @change="tick(f.id)" />
      <span class="mono small quiet">{{ f.tags }}</span>
      <v-menu location="end">
        <template #activator="{ props: p }">
          <button v-bind="p" class="bare more" :aria-label="$t('tags.folderMenu', { name: f.name })">
            <v-icon :icon="mdiDotsVertical" size="16" />
          </button>
        </template>
        <v-list density="compact">
          <v-list-item :title="$t('tags.rename')" @click="renaming = f.id" />
          <v-list-item :title="$t('bulk.copy')" @click="work(f.id, 'copy')" />
          <v-list-item :title="$t('bulk.move')" @click="work(f.id, 'move')" />
          <v-list-item :title="$t('recording.menu')" @click="recording = f.id" />
          <v-list-item :title="$t('uses.title')" @click="whereUsed(f.id)" />
          <v-list-item :title="$t('tags.deleteFolder', { n: f.tags })" @click="remove(f)" />
        </v-list>
      </v-menu>
    </div>
    <FolderRecording v-if="recorded" :folder="recorded" @close="recording = ''" />
    <ExportTicked v-if="ticked.size" :folders="[...ticked]" @close="ticked = new Set()" />
    <div v-if="uses" class="uses">
      <strong>{{ $t('uses.title') }} {{ uses.list.length }}</strong>
      <button class="bare quiet" @click="uses = undefined">{{ $t('notice.close') }}</button>
      <router-link v-for="u in uses.list" :key="u.id + u.place" :to="where(u)">{{ u.name }}</router-link>
      <span v-if="!uses.list.length" class="quiet">{{ $t('uses.none') }}</span>
    </div>
  </nav>
</template>

<style scoped>
.tree {
  flex: none;
  border-right: 1px solid var(--c-line);
  background: var(--c-sheet);
  overflow: auto;
  padding: 10px 0;
}
.line {
  display: flex;
  align-items: center;
  gap: 4px;
  min-height: 28px;
  padding: 0 10px;
  width: 100%;
  box-sizing: border-box;
  background: none;
  border: 0;
  text-align: left;
  color: inherit;
}
.line.on {
  background: var(--c-tint);
  font-weight: 650;
}
.line.root {
  cursor: pointer;
}
.n {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  line-height: 28px;
}
.fold {
  width: 16px;
  flex: none;
}
span.small {
  min-width: 24px;
  text-align: right;
  font-size: 12px;
  font-weight: 400;
}
.more,
.tick {
  opacity: 0;
  flex: none;
}
.tick {
  margin: 0;
  accent-color: var(--c-spruce);
  cursor: pointer;
}
.line:hover :is(.more, .tick),
:is(.more, .tick):focus-visible,
.more[aria-expanded='true'],
.tick.any {
  opacity: 1;
}
.uses {
  border-top: 1px solid var(--c-line);
  margin-top: 10px;
  padding: 8px 12px;
  display: flex;
  flex-direction: column;
  gap: 3px;
  font-size: 13px;
}
.uses a {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
