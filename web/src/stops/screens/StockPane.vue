<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { useSettings } from '../../kit/settings'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import KindPreview from './KindPreview.vue'
import type { Piece } from './useDrop'
import PathText from '../../kit/PathText.vue'

// What can be placed: elements, symbols drawn in the project, and equipment.
const props = defineProps<{ screen: string }>()
const emit = defineEmits<{ place: [kind: string]; gear: [pieces: Piece[]] }>()
const project = useProject()
const catalogue = useCatalogue()
const text = ref('')
const settings = useSettings()
/** A section that is searched in is open. */
const isOpen = (name: string) => !!text.value.trim() || !settings.stockFolded.includes(name)
const fold = (name: string) =>
  (settings.stockFolded = settings.stockFolded.includes(name)
    ? settings.stockFolded.filter((x) => x !== name)
    : [...settings.stockFolded, name])
const fits = (name: string) => name.toLowerCase().includes(text.value.trim().toLowerCase())
const sections = computed(() =>
  (['shapes', 'values', 'actions', 'recipes', 'parts', 'equipment'] as const)
    .map((name) => ({
      name,
      kinds: catalogue.kinds.filter((k) => k.stock === name && fits(catalogue.kindTitle(k.name))),
    }))
    .filter((s) => s.kinds.length),
)
const pieces = shallowRef<Schemas['PieceInfo'][]>([])
const points = shallowRef<Schemas['ScreenPoint'][]>([])
watch(
  [() => project.versionOf('screen', 'type', 'equipment', 'paths'), () => props.screen],
  async () => {
    pieces.value = await ask(
      api.GET('/api/projects/{project}/equipment', { params: { path: project.path } }),
    ).catch(() => [])
    points.value = !props.screen
      ? []
      : await ask(
          api.GET('/api/projects/{project}/screens/{id}/points', {
            params: { path: { ...project.path, id: props.screen } },
          }),
        ).catch(() => [])
  },
  { immediate: true },
)
const symbolOf = (type: string) => project.types.find((t) => t.id === type)?.symbol
const typeName = (type: string) => project.types.find((t) => t.id === type)?.name ?? ''
const shownPieces = computed(() => pieces.value.filter((p) => fits(p.path + typeName(p.type))).slice(0, 200))
const shownPoints = computed(() =>
  points.value.filter((p) => p.path.includes('.') && fits(p.path)).slice(0, 200),
)
const drag = (e: DragEvent, kind: string, what: unknown) =>
  e.dataTransfer?.setData(kind, typeof what === 'string' ? what : JSON.stringify(what))
/** Equipment as it is dragged: with its symbol, and how many its array has. */
function pieceOf(
  p: { id: string; path: string; type: string },
  among: { path: string; type: string }[],
): Piece {
  const array = (path: string) => /^(.*)\[\d+\]$/.exec(path)?.[1]
  const base = array(p.path)
  return {
    id: p.id,
    path: p.path,
    type: typeName(p.type),
    symbol: symbolOf(p.type),
    mates: base === undefined ? 1 : among.filter((x) => x.type === p.type && array(x.path) === base).length,
  }
}
const dragPoint = (e: DragEvent, p: Schemas['ScreenPoint']) =>
  p.kind === 'equipment'
    ? drag(e, 'application/x-rr-gear', [pieceOf(p, points.value)])
    : drag(e, 'application/x-rr-points', [p])
</script>

<template>
  <div class="stock">
    <input v-model="text" class="plain" :placeholder="$t('stock.find')" :aria-label="$t('stock.find')" />
    <template v-for="s in sections" :key="s.name">
      <button class="fold" :aria-expanded="isOpen(s.name)" @click="fold(s.name)">
        <v-icon :icon="isOpen(s.name) ? mdiChevronDown : mdiChevronRight" size="16" />
        {{ $t($word('stock', s.name)) }}
      </button>
      <div v-if="isOpen(s.name)" class="grid2">
        <button
          v-for="k in s.kinds"
          :key="k.name"
          class="kind"
          draggable="true"
          :title="$t('stock.hint')"
          @dragstart="drag($event, 'application/x-rr-kind', k.name)"
          @dblclick="emit('place', k.name)"
          @keydown.enter="emit('place', k.name)">
          <KindPreview :kind="k" />
          <span>{{ catalogue.kindTitle(k.name) }}</span>
        </button>
      </div>
    </template>
    <template v-if="shownPoints.length">
      <button class="fold" :aria-expanded="isOpen('points')" @click="fold('points')">
        <v-icon :icon="isOpen('points') ? mdiChevronDown : mdiChevronRight" size="16" />
        {{ $t('stock.points') }}
        <span class="quiet">{{ shownPoints.length }}</span>
      </button>
      <div v-if="isOpen('points')" class="few">
        <div
          v-for="p in shownPoints"
          :key="p.id"
          class="gear mono"
          draggable="true"
          :title="p.title"
          @dragstart="dragPoint($event, p)">
          <PathText class="path" :path="p.path" />
          <span class="quiet">{{ p.kind === 'equipment' ? typeName(p.type) : p.kind }}</span>
        </div>
      </div>
    </template>
    <template v-if="shownPieces.length">
      <button class="fold" :aria-expanded="isOpen('pieces')" @click="fold('pieces')">
        <v-icon :icon="isOpen('pieces') ? mdiChevronDown : mdiChevronRight" size="16" />
        {{ $t('stock.pieces') }}
        <span class="quiet">{{ shownPieces.length }}</span>
      </button>
      <div v-if="isOpen('pieces')" class="few">
        <div
          v-for="p in shownPieces"
          :key="p.id"
          class="gear mono"
          draggable="true"
          tabindex="0"
          :title="$t('stock.hint')"
          @dragstart="drag($event, 'application/x-rr-gear', [pieceOf(p, pieces)])"
          @keydown.enter="emit('gear', [pieceOf(p, pieces)])">
          <PathText class="path" :path="p.path" />
          <span class="quiet">{{ typeName(p.type) }}</span>
        </div>
      </div>
    </template>
  </div>
</template>

<style scoped>
.stock {
  overflow: auto;
  padding: 10px 12px;
}
.fold {
  display: flex;
  align-items: center;
  gap: 4px;
  width: 100%;
  padding: 6px 0 4px;
  border: 0;
  background: none;
  color: var(--c-quiet);
  font-size: 12px;
  cursor: pointer;
}
.few {
  max-height: 220px;
  overflow: auto;
}
.grid2 {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
}
.kind {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  border: 1px solid transparent;
  background: none;
  border-radius: 4px;
  padding: 4px 2px;
  cursor: grab;
  font-size: 11px;
  color: var(--c-ink);
  text-align: center;
  line-height: 1.15;
}
.kind:hover {
  border-color: var(--c-line);
  background: var(--c-tint);
}
.gear {
  display: flex;
  justify-content: space-between;
  gap: 6px;
  padding: 3px 4px;
  font-size: 12px;
  cursor: grab;
  border-radius: 3px;
}
.gear:hover,
.gear:focus-visible {
  background: var(--c-tint);
}
.path {
  flex: 1;
}
</style>
