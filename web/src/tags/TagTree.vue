<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, shallowRef, toRef } from 'vue'
import { api, ask, type TagRow } from '../api/client'
import { useTagValues } from '../live/useTagValues'
import { useProject } from '../rail/project'
import { useFolders, type Folder } from './useFolders'
import { usePicking } from './usePicking'
import TagLine from './TagLine.vue'

// Tags by folder, to be dragged from or taken. A folder's own tags are asked
// for when it is opened.
type Line = { key: string; depth: number; folder?: Folder; tag?: TagRow; left?: number }
/** Of a folder with more tags than this the others are found by the filter. */
const MOST = 500
/** A project with no more tags than this opens with all of its folders. */
const SMALL = 60
const props = defineProps<{ taken?: ReadonlySet<string> }>()
const emit = defineEmits<{ take: [id: string] }>()
const project = useProject()
const own = shallowRef(new Map<string, { rows: TagRow[]; total: number }>())
const open = ref(new Set<string>())

async function load(folder: string) {
  const query = { folder, own: true, limit: MOST }
  const page = await ask(
    api.GET('/api/projects/{project}/tags', { params: { path: project.path, query } }),
  ).catch(() => undefined)
  if (page) own.value = new Map(own.value).set(folder, page)
}
let first = true
const { folders, inside } = useFolders((there) => {
  const tags = (inside.value.get('') ?? []).reduce((n, f) => n + f.tags, 0)
  const keep = first && tags <= SMALL ? [...there] : [...open.value].filter((id) => there.has(id))
  first = !folders.value.length
  open.value = new Set(keep)
  for (const folder of ['', ...keep]) void load(folder)
})

const lines = computed(() => {
  const out: Line[] = []
  const walk = (parent: string, depth: number) => {
    for (const folder of inside.value.get(parent) ?? []) {
      out.push({ key: folder.id, depth, folder })
      if (open.value.has(folder.id)) walk(folder.id, depth + 1)
    }
    const tags = own.value.get(parent)
    for (const tag of tags?.rows ?? []) out.push({ key: tag.tag.id, depth, tag })
    const left = (tags?.total ?? 0) - (tags?.rows.length ?? 0)
    if (left > 0) out.push({ key: 'left ' + parent, depth, left })
  }
  walk('', 0)
  return out
})

const scroller = ref<HTMLElement>()
const options = computed(() => ({
  count: lines.value.length,
  getScrollElement: () => scroller.value ?? null,
  estimateSize: () => 28,
  overscan: 10,
}))
const virtual = useVirtualizer(options)
const shown = computed(() =>
  virtual.value.getVirtualItems().flatMap((v) => {
    const line = lines.value[v.index]
    return line ? [{ v, line }] : []
  }),
)
const values = useTagValues(
  toRef(project, 'id'),
  computed(() => shown.value.flatMap(({ line }) => line.tag?.tag.id ?? []).sort()),
)
const { on, pick, drag } = usePicking(
  (line) => lines.value[line]?.tag?.tag.id,
  () => ({ taken: props.taken, take: (id) => emit('take', id) }),
)

function fold(id: string, to = !open.value.has(id)) {
  const next = new Set(open.value)
  if (to) next.add(id)
  else next.delete(id)
  open.value = next
  if (to && !own.value.has(id)) void load(id)
}

// By keyboard: arrows go and fold, Space picks.
const current = ref(0)
async function go(to: number) {
  current.value = Math.max(0, Math.min(lines.value.length - 1, to))
  virtual.value.scrollToIndex(current.value)
  await nextTick()
  scroller.value?.querySelector<HTMLElement>('[tabindex="0"]')?.focus()
}
function key(e: KeyboardEvent) {
  const line = lines.value[current.value]
  const folder = line?.folder
  if (e.key === 'ArrowDown') void go(current.value + 1)
  else if (e.key === 'ArrowUp') void go(current.value - 1)
  else if (e.key === 'ArrowRight' && folder && !open.value.has(folder.id)) fold(folder.id, true)
  else if (e.key === 'ArrowRight' && folder) {
    if ((lines.value[current.value + 1]?.depth ?? 0) > line.depth) void go(current.value + 1)
  } else if (e.key === 'ArrowLeft' && folder && open.value.has(folder.id)) fold(folder.id, false)
  else if (e.key === 'ArrowLeft' && line)
    void go(lines.value.slice(0, current.value).findLastIndex((l) => l.depth < line.depth))
  else if ((e.key === ' ' || e.key === 'Enter') && folder) fold(folder.id)
  else if ((e.key === ' ' || e.key === 'Enter') && line?.tag) pick(line.tag.tag.id, current.value, e)
  else return
  e.preventDefault()
  e.stopPropagation()
}
</script>

<template>
  <div ref="scroller" class="tree" role="tree" :aria-label="$t('tags.folders')" @keydown="key">
    <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
      <div
        v-for="{ v, line } in shown"
        :key="line.key"
        class="at"
        role="treeitem"
        :aria-level="line.depth + 1"
        :aria-expanded="line.folder ? open.has(line.folder.id) : undefined"
        :aria-selected="line.tag ? on(line.tag.tag.id) : undefined"
        :tabindex="v.index === current ? 0 : -1"
        :style="{ transform: `translateY(${v.start}px)`, paddingLeft: line.depth * 14 + 'px' }"
        @focus="current = v.index">
        <button v-if="line.folder" class="bare folder" tabindex="-1" @click="fold(line.folder.id)">
          <v-icon :icon="open.has(line.folder.id) ? mdiChevronDown : mdiChevronRight" size="16" />
          <span class="name">{{ line.folder.name }}</span>
          <span class="quiet mono">{{ line.folder.tags }}</span>
        </button>
        <TagLine
          v-else-if="line.tag"
          :row="line.tag"
          :name="line.tag.tag.name"
          :value="values.get(line.tag.tag.id)"
          :on="on(line.tag.tag.id)"
          @click="pick(line.tag.tag.id, v.index, $event)"
          @dragstart="drag(line.tag.tag.id, $event)" />
        <span v-else class="quiet more">{{ $t('editor.moreTags', { n: line.left }) }}</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.tree {
  flex: 1;
  overflow: auto;
}
.space {
  position: relative;
}
.at {
  position: absolute;
  left: 0;
  right: 0;
  height: 28px;
  box-sizing: border-box;
  outline-offset: -2px;
}
.folder {
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  height: 28px;
  padding: 0 8px 0 6px;
  text-align: left;
  font-size: 13px;
}
.folder:hover {
  background: var(--c-tint);
}
.folder .name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.folder .mono {
  font-size: 12px;
}
.more {
  display: block;
  padding: 5px 12px;
  font-size: 12px;
}
</style>
