<script setup lang="ts">
import { mdiDotsHorizontal, mdiPlus, mdiTrayArrowDown, mdiViewColumnOutline } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import FilterBox from '../../kit/FilterBox.vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useSettings } from '../../kit/settings'
import { freshId, useProject } from '../../rail/project'
import { useTagList, type Only } from '../../tags/useTagList'
import BulkPanel from './BulkPanel.vue'
import { columns, shownColumns } from './columns'
import FolderTree from './FolderTree.vue'
import ImportPanel from './ImportPanel.vue'
import LoopWalk from './LoopWalk.vue'
import ManyInspector from './ManyInspector.vue'
import TagGrid from './TagGrid.vue'
import TagInspector from './TagInspector.vue'

const project = useProject()
const settings = useSettings()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const list = useTagList()
type Work = '' | 'import' | 'many' | 'copy' | 'move' | 'walk'
const work = ref<Work>('')
// The address of the page follows the selection a moment later; keys and pastes
// that come meanwhile go by the selection.
const selected = ref('')
watch(
  () => route.params.id,
  (id) => (selected.value = (id as string) || ''),
  { immediate: true },
)
const picked = ref(new Set<string>())
const folderPath = ref('')
const covering = computed(
  () => work.value === 'import' || work.value === 'many' || work.value === 'copy' || work.value === 'move',
)

const go = (id: string) => router.replace({ name: 'tags', params: { project: project.id, id } })
function pick(ids: string[], current: string) {
  picked.value = new Set(ids)
  if (!current) return
  selected.value = current
  void go(current)
}
const chips = ['bad', 'findings', 'unused', 'writable', 'held'] as const satisfies Only[]
const types = [
  'BOOL',
  'SINT',
  'USINT',
  'INT',
  'UINT',
  'DINT',
  'UDINT',
  'LINT',
  'ULINT',
  'REAL',
  'LREAL',
  'STRING',
]
function toggleColumn(key: string) {
  shownColumns.value = shownColumns.value.includes(key)
    ? shownColumns.value.filter((k) => k !== key)
    : [...shownColumns.value, key]
}

async function add() {
  const id = freshId('tag')
  let n = 1
  const taken = new Set(list.loaded.value.map((r) => r.path.toLowerCase()))
  const prefix = folderPath.value ? folderPath.value + '.' : ''
  while (taken.has((prefix + 'NewTag' + n).toLowerCase())) n++
  const value = {
    name: 'NewTag' + n,
    folder: list.filter.value.folder || undefined,
    type: 'INT',
    source: 'internal',
  }
  if (!(await project.edit(t('tags.added'), [{ kind: 'tag', id, path: '', value }]))) pick([id], id)
}
async function remove() {
  const gone = [...picked.value]
  if (!gone.length) return
  // Away from it first, so that whoever goes on meanwhile is not called back.
  const was = selected.value
  picked.value = new Set()
  await router.replace({ name: 'tags', params: { project: project.id } })
  const refused = await project.edit(
    t('tags.deleted', { n: gone.length }),
    gone.map((id) => ({ kind: 'tag', id, path: '' })),
  )
  if (refused && was) await go(was)
}
const exportUrl = (format: string) =>
  `/api/projects/${project.id}/export?format=${format}${list.filter.value.folder ? '&folder=' + list.filter.value.folder : ''}`
</script>

<template>
  <div class="split">
    <FolderTree
      v-model="list.filter.value.folder"
      :style="{ width: settings.treeWidth + 'px' }"
      @path="folderPath = $event"
      @work="work = $event" />
    <section class="stop">
      <div class="stop-head">
        <h1>{{ $t('stop.tags') }}</h1>
        <span class="quiet">
          {{
            folderPath
              ? $t('tags.lineIn', { n: list.total.value, folder: folderPath })
              : $t('tags.line', { n: list.total.value })
          }}
        </span>
        <span class="grow" />
        <v-menu location="bottom end">
          <template #activator="{ props: p }">
            <v-btn
              v-bind="p"
              variant="text"
              size="small"
              :icon="mdiDotsHorizontal"
              :aria-label="$t('tags.more')" />
          </template>
          <v-list density="compact">
            <v-list-item :title="$t('bulk.many')" @click="work = 'many'" />
            <v-list-item
              :title="$t('bulk.copy')"
              :disabled="!picked.size && !list.filter.value.folder"
              @click="work = 'copy'" />
            <v-list-item
              :title="$t('bulk.move')"
              :disabled="!picked.size && !list.filter.value.folder"
              @click="work = 'move'" />
            <v-divider />
            <v-list-item :title="$t('loop.walk')" @click="work = 'walk'" />
            <v-list-item
              :title="$t('loop.export')"
              :href="`/api/projects/${project.id}/loop-checks/export`" />
            <v-list-item
              :title="$t('loop.print')"
              :to="{ name: 'register', params: { project: project.id } }" />
            <v-divider />
            <v-list-item :title="$t('tags.exportCsv')" :href="exportUrl('csv')" />
            <v-list-item :title="$t('tags.exportXlsx')" :href="exportUrl('xlsx')" />
          </v-list>
        </v-menu>
        <v-btn variant="outlined" :prepend-icon="mdiTrayArrowDown" @click="work = 'import'">
          {{ $t('tags.bringIn') }}
        </v-btn>
        <v-btn color="primary" :prepend-icon="mdiPlus" @click="add">{{ $t('tags.add') }}</v-btn>
        <div class="filters">
          <FilterBox v-model="list.filter.value.text" class="words" :label="$t('tags.filter')" />
          <select v-model="list.filter.value.type" class="plain pick" :aria-label="$t('tags.anyType')">
            <option value="">{{ $t('tags.anyType') }}</option>
            <option v-for="x in types" :key="x">{{ x }}</option>
          </select>
          <select v-model="list.filter.value.device" class="plain pick" :aria-label="$t('tags.anyDevice')">
            <option value="">{{ $t('tags.anyDevice') }}</option>
            <option v-for="d in project.devices" :key="d.id" :value="d.id">{{ d.name }}</option>
          </select>
          <select v-model="list.filter.value.check" class="plain pick" :aria-label="$t('tags.column.check')">
            <option value="">{{ $t('tags.anyCheck') }}</option>
            <option v-for="x in ['untested', 'passed', 'failed', 'outdated']" :key="x" :value="x">
              {{ $t($word('check', x)) }}
            </option>
          </select>
          <button
            v-for="c in chips"
            :key="c"
            class="chip"
            :class="{ on: list.filter.value.only === c }"
            :aria-pressed="list.filter.value.only === c"
            @click="list.filter.value.only = list.filter.value.only === c ? '' : c">
            {{ $t($word('tags.only', c)) }}
          </button>
          <v-menu :close-on-content-click="false" location="bottom end">
            <template #activator="{ props: p }">
              <button v-bind="p" class="chip" :aria-label="$t('tags.columns')" :title="$t('tags.columns')">
                <v-icon :icon="mdiViewColumnOutline" size="16" />
              </button>
            </template>
            <v-list density="compact">
              <v-list-item v-for="c in columns.slice(1)" :key="c.key" @click="toggleColumn(c.key)">
                <label class="col">
                  <input type="checkbox" :checked="shownColumns.includes(c.key)" tabindex="-1" />
                  {{ $t($word('tags.column', c.key)) }}
                </label>
              </v-list-item>
            </v-list>
          </v-menu>
        </div>
      </div>
      <ImportPanel v-if="work === 'import'" @close="work = ''" />
      <BulkPanel
        v-else-if="work === 'many' || work === 'copy' || work === 'move'"
        :key="work"
        :what="work"
        :tags="[...picked]"
        :folder="list.filter.value.folder"
        :folder-path="folderPath"
        :sample="selected"
        @close="work = ''" />
      <TagGrid
        v-show="!covering"
        :list="list"
        :selected="selected"
        :picked="picked"
        :folder="folderPath"
        @pick="pick"
        @remove="remove" />
    </section>
    <LoopWalk
      v-if="work === 'walk'"
      :list="list"
      :selected="selected"
      @go="pick([$event], $event)"
      @close="work = ''" />
    <ManyInspector
      v-else-if="picked.size > 1 && !covering"
      :ids="[...picked]"
      @remove="remove"
      @copy="work = 'copy'"
      @move="work = 'move'" />
    <TagInspector v-else-if="selected && !covering" :id="selected" :key="selected" @remove="remove" />
  </div>
</template>

<style scoped>
.words {
  flex: 0 1 200px;
  min-height: 30px;
}
.split {
  display: flex;
  height: 100%;
}
.split > .stop {
  flex: 1;
  min-width: 0;
}
.filters {
  display: flex;
  gap: 6px;
  width: 100%;
  align-items: center;
  flex-wrap: wrap;
}
.pick {
  width: auto;
  max-width: 104px;
  min-height: 30px;
  font-size: 12px;
  background: var(--c-sheet);
}
.col {
  display: flex;
  gap: 8px;
  align-items: center;
  pointer-events: none;
}
</style>
