<script setup lang="ts">
import { mdiChevronDown, mdiChevronUp, mdiClose, mdiPlus, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, shallowRef, toRef, watch } from 'vue'
import { api, ask, type TagRow } from '../api/client'
import { useSettings } from '../kit/settings'
import SparkLine from '../kit/SparkLine.vue'
import { SPAN } from '../kit/spark'
import ValueCell from '../kit/ValueCell.vue'
import { useTagValues } from '../live/useTagValues'
import { useProject } from './project'
import { useWatched } from './watched'
import PathText from '../kit/PathText.vue'

const project = useProject()
const settings = useSettings()
const watched = useWatched()
const ids = toRef(watched, 'ids')
const naming = ref(false)
const values = useTagValues(toRef(project, 'id'), ids)
const rows = shallowRef<Record<string, TagRow>>({})
const over = ref(false)
const open = computed({ get: () => settings.watchOpen, set: (v) => (settings.watchOpen = v) })

watch(
  [ids, () => project.versionOf('tag', 'type', 'equipment', 'paths')],
  async () => {
    const out: Record<string, TagRow> = {}
    for (const id of ids.value) {
      const r = await ask(
        api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } }),
      ).catch(() => undefined)
      if (r) out[id] = r
    }
    rows.value = out
  },
  { immediate: true },
)

/** What was recorded of each before it was watched, asked for once. */
const pasts = shallowRef<Record<string, { at: number; v: number }[]>>({})
watch(
  ids,
  async (list) => {
    for (const id of list) {
      if (pasts.value[id]) continue
      const course = await ask(
        api.GET('/api/projects/{project}/points/{id}/course', {
          params: { path: { ...project.path, id }, query: { from: Date.now() - SPAN } },
        }),
      ).catch(() => [])
      const past = course.filter((p) => !p.bad).map((p) => ({ at: p.at, v: p.high }))
      pasts.value = { ...pasts.value, [id]: past }
    }
  },
  { immediate: true },
)

function drop(e: DragEvent) {
  over.value = false
  const tags = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  watched.ids = [...new Set([...ids.value, ...tags])]
  open.value = true
}
const remove = (id: string) => (watched.ids = ids.value.filter((x) => x !== id))
function begin(e: Event) {
  watched.begin((e.target as HTMLInputElement).value)
  naming.value = false
}
</script>

<template>
  <section
    class="watch"
    :class="{ over }"
    :aria-label="$t('watch.name')"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="drop">
    <div class="bar">
      <button class="bare toggle" :aria-expanded="open" @click="open = !open">
        <v-icon :icon="open ? mdiChevronDown : mdiChevronUp" size="18" />
        {{ ' ' }}
        <strong>{{ $t('watch.name') }}</strong>
      </button>
      <template v-if="open">
        <select v-if="!naming" v-model="watched.name" class="plain set" :aria-label="$t('watch.set')">
          <option v-for="n in watched.names" :key="n">{{ n }}</option>
        </select>
        <input
          v-else
          class="plain set"
          :placeholder="$t('watch.newName')"
          :aria-label="$t('watch.newName')"
          autofocus
          @keydown.enter="begin"
          @keydown.esc="naming = false"
          @blur="naming = false" />
        <button
          class="bare"
          :aria-label="$t('watch.newSet')"
          :title="$t('watch.newSet')"
          @mousedown.prevent
          @click="naming = !naming">
          <v-icon :icon="mdiPlus" size="16" />
        </button>
        <button
          class="bare"
          :aria-label="$t('watch.dropSet')"
          :title="$t('watch.dropSet')"
          @click="watched.drop()">
          <v-icon :icon="mdiTrashCanOutline" size="16" />
        </button>
      </template>
      <template v-if="!open">
        <span v-for="id in ids.slice(0, 6)" :key="id" class="brief">
          <PathText class="mono" :path="rows[id]?.path ?? '…'" />
          {{ ' ' }}
          <ValueCell :value="values.get(id)" />
        </span>
      </template>
      <span class="quiet drop">{{ $t('watch.drop') }}</span>
    </div>
    <div v-if="open" class="cards">
      <div
        v-for="id in ids"
        :key="id"
        class="card"
        :class="{ veiled: values.get(id)?.level === 'bad' }"
        :title="values.get(id)?.reason">
        <div class="top">
          <PathText class="mono path" :path="rows[id]?.path ?? $t('watch.gone')" />
          <button class="bare" :aria-label="$t('watch.remove')" @click="remove(id)">
            <v-icon :icon="mdiClose" size="14" />
          </button>
        </div>
        <div class="low">
          <span class="mono now">
            {{ values.get(id)?.level === 'bad' ? '—' : values.get(id)?.text }}
            {{ values.get(id)?.level === 'bad' ? '' : rows[id]?.tag.unit }}
          </span>
          <SparkLine :value="values.get(id)" :past="pasts[id]" :width="96" :height="30" />
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.watch {
  border-top: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.watch.over {
  outline: 2px solid var(--c-spruce);
  outline-offset: -2px;
}
.bar {
  height: 28px;
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 12px;
  overflow: hidden;
  white-space: nowrap;
}
.toggle {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.set {
  width: 150px;
  min-height: 22px;
  height: 22px;
  padding: 0 6px;
  font-size: 13px;
}
.brief {
  font-size: 13px;
  display: inline-flex;
  align-items: center;
  gap: 2px;
}
.brief :deep(.value) {
  min-width: 0;
}
.drop {
  margin-left: auto;
  font-size: 12px;
}
.cards {
  display: flex;
  gap: 8px;
  padding: 2px 12px 10px;
  overflow-x: auto;
}
.card {
  min-width: 214px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 5px 10px;
}
.top,
.low {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
}
.path {
  font-size: 13px;
  color: var(--c-quiet);
}
.now {
  font-size: 16px;
  font-weight: 650;
  white-space: nowrap;
}
</style>
