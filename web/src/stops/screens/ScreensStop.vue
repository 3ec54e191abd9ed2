<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useEventListener } from '@vueuse/core'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { freshScreen } from '../../rail/freshScreen'
import { freshId, useProject } from '../../rail/project'
import { mdiLockOutline } from '@mdi/js'
import { useSettings } from '../../kit/settings'
import PointCard from '../../links/PointCard.vue'
import WindowFrame from '../../kit/WindowFrame.vue'
import ArgsEditor from './ArgsEditor.vue'
import DuplicateBox from './DuplicateBox.vue'
import EditorCanvas from './EditorCanvas.vue'
import EditorTools from './EditorTools.vue'
import ElementInspector from './ElementInspector.vue'
import ElementList from './ElementList.vue'
import ScreenInspector from './ScreenInspector.vue'
import ScreenWalk from './ScreenWalk.vue'
import StockPane from './StockPane.vue'
import SubstituteBox from './SubstituteBox.vue'
import SymbolBox from './SymbolBox.vue'
import TagPane from '../../tags/TagPane.vue'
import type { Piece } from './useDrop'
import { type PlanName, useEditor } from './useEditor'
import type { WordOf } from '../../i18n/word'

/** The width of the rail, beside which the panes begin. */
const RAIL = 88
const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const id = computed(
  () =>
    (route.params.id as string) ||
    (project.screens.find((s) => s.home) ?? project.screens.find((s) => !s.role) ?? project.screens[0])?.id ||
    '',
)
const editor = useEditor(id)
const tab = ref<'screens' | 'tags' | 'stock' | 'elements'>('screens')
const showLive = ref(true)
const canvas = ref<InstanceType<typeof EditorCanvas>>()
const point = ref('')
const settings = useSettings()
const sizing = ref(false)
useEventListener('pointermove', (e: PointerEvent) => {
  if (sizing.value) settings.editorWidth = Math.max(180, Math.min(520, e.clientX - RAIL))
})
useEventListener('pointerup', () => (sizing.value = false))
/** The edit that is shown before it is made. */
const box = ref<'' | PlanName>('')
/** While the screen is walked over for acceptance: how its elements stand. */
const marks = shallowRef<Map<string, 'open' | 'failed'>>()
/** What the parameters stand for while the screen is edited: the defaults, or what was chosen here. */
const chosen = ref<Record<string, Record<string, string>>>({})
const args = computed(() => chosen.value[id.value] ?? {})
const groups = computed(() => {
  const of = (roles: string[]) => project.screens.filter((s) => roles.includes(s.role))
  return [
    ['', of([''])],
    ['windows', of(['popup', 'faceplate'])],
    ['symbols', of(['symbol'])],
    ['common', of(['header', 'footer'])],
  ].filter(([, list]) => list!.length) as [WordOf<'editor.kinds'> | '', typeof project.screens][]
})
const locked = (s: (typeof project.screens)[number]) => s.roles.length + s.operators.length > 0

watch([() => route.params.element, editor.doc], ([e]) => {
  if (typeof e === 'string' && e && editor.doc.value?.elements[e]) {
    editor.selection.value = new Set([e])
    void router.replace({ name: 'screens', params: { project: project.id, id: id.value } })
  }
})
const open = (screen: string) => router.push({ name: 'screens', params: { project: project.id, id: screen } })

function placeGear(pieces: Piece[]) {
  const made = pieces.flatMap(
    (p) => editor.equip(editor.doc.value!.width / 2, editor.doc.value!.height / 2, p) ?? [],
  )
  if (made.length) void editor.add(t('editor.placed'), made)
}

async function add() {
  const screen = freshId('screen')
  const n = project.screens.length + 1
  const value = freshScreen(project, t('editor.newScreen') + ' ' + n)
  if (!(await project.edit(t('editor.screenAdded'), [{ kind: 'screen', id: screen, path: '', value }]))) {
    tab.value = 'stock'
    await project.refresh()
    await open(screen)
  }
}
</script>

<template>
  <div class="split">
    <aside v-show="!settings.folded.left" class="left" :style="{ width: settings.editorWidth + 'px' }">
      <div class="edge" role="separator" aria-orientation="vertical" @pointerdown.prevent="sizing = true" />
      <div class="tabs" role="tablist">
        <button
          v-for="x in ['screens', 'tags', 'stock', 'elements'] as const"
          :key="x"
          role="tab"
          :aria-selected="tab === x"
          :class="{ on: tab === x }"
          @click="tab = x">
          {{ $t($word('editor', x)) }}
        </button>
      </div>
      <div v-if="tab === 'screens'" class="list">
        <template v-for="[name, list] in groups" :key="name">
          <h3 v-if="name">{{ $t($word('editor.kinds', name)) }}</h3>
          <button
            v-for="s in list"
            :key="s.id"
            class="screen"
            :class="{ on: s.id === id }"
            @click="open(s.id)">
            <span>{{ s.name }}</span>
            <v-icon v-if="locked(s)" :icon="mdiLockOutline" size="14" :title="$t('editor.ownRights')" />
            <span v-if="s.params.length" class="quiet mono">{{ s.params.map((p) => p.name).join(' ') }}</span>
            <span v-if="s.home" class="chip">{{ $t('editor.first') }}</span>
            <span class="quiet mono">{{ s.elements }}</span>
          </button>
        </template>
        <v-btn variant="text" color="primary" @click="add">+ {{ $t('editor.addScreen') }}</v-btn>
        <v-btn variant="text" :to="{ name: 'map', params: { project: project.id } }">
          {{ $t('screenMap.open') }}
        </v-btn>
      </div>
      <TagPane v-else-if="tab === 'tags'" />
      <ElementList v-else-if="tab === 'elements' && editor.doc.value" :editor="editor" />
      <StockPane v-else :screen="id" @place="(k) => canvas?.placeInMiddle(k)" @gear="placeGear" />
    </aside>
    <section v-if="editor.doc.value" class="work">
      <EditorTools
        v-model:live="showLive"
        :editor="editor"
        :screen="id"
        @walk="marks = marks ? undefined : new Map()" />
      <div v-if="editor.doc.value.params?.length" class="given">
        <span class="quiet">{{ $t('editor.shownWith') }}</span>
        <ArgsEditor
          target=""
          :on="''"
          :own="editor.doc.value.params"
          :model-value="args"
          class="row"
          @update:model-value="chosen = { ...chosen, [id]: $event ?? {} }" />
      </div>
      <EditorCanvas
        ref="canvas"
        :key="id"
        :editor="editor"
        :live="showLive"
        :args="args"
        :marks="marks"
        @point="point = $event"
        @plan="box = $event" />
      <div v-if="point" class="over">
        <WindowFrame :title="$t('menu.point')" @close="point = ''">
          <PointCard :id="point" :project="project.id" program="draft" />
        </WindowFrame>
      </div>
      <SubstituteBox v-if="box === 'substitute'" :editor="editor" @close="box = ''" />
      <DuplicateBox v-else-if="box === 'steps'" :editor="editor" @close="box = ''" />
      <SymbolBox v-else-if="box" :key="box" :editor="editor" :repeat="box === 'repeat'" @close="box = ''" />
    </section>
    <section v-else class="work">
      <div class="empty">
        <h2>{{ $t('editor.empty') }}</h2>
        <p>{{ $t('editor.emptyWhy') }}</p>
        <v-btn color="primary" @click="add">{{ $t('editor.addScreen') }}</v-btn>
      </div>
    </section>
    <ScreenWalk
      v-if="marks && editor.doc.value"
      :editor="editor"
      :args="args"
      @marks="marks = $event"
      @close="marks = undefined" />
    <template v-else-if="settings.folded.right" />
    <ElementInspector
      v-else-if="editor.selected.value.length"
      :editor="editor"
      :args="args"
      @pose="(e, prop, v) => canvas?.pose(e, prop, v)" />
    <ScreenInspector
      v-else-if="editor.doc.value"
      :key="id"
      :editor="editor"
      @substitute="box = 'substitute'" />
  </div>
</template>

<style scoped>
.split {
  display: flex;
  height: 100%;
}
.edge {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 6px;
  cursor: col-resize;
  z-index: 2;
}
.left {
  position: relative;
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--c-sheet);
  border-right: 1px solid var(--c-line);
  min-height: 0;
}
.tabs {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  border-bottom: 1px solid var(--c-line);
}
.tabs button {
  background: none;
  border: 0;
  padding: 10px 0;
  font-size: 13px;
  cursor: pointer;
  border-bottom: 3px solid transparent;
}
.tabs .on {
  border-color: var(--c-spruce);
  font-weight: 650;
}
.list {
  overflow: auto;
  padding: 8px 0;
}
.screen {
  display: flex;
  width: 100%;
  align-items: center;
  gap: 8px;
  padding: 7px 14px;
  border: 0;
  background: none;
  cursor: pointer;
  text-align: left;
}
.screen > :first-child {
  flex: 1;
}
.screen.on {
  background: var(--c-tint);
  font-weight: 650;
}
.screen .mono {
  font-size: 12px;
}
.list h3 {
  font-size: 12px;
  font-weight: 500;
  color: var(--c-quiet);
  margin: 10px 14px 2px;
}
.given {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 4px 10px;
  border-bottom: 1px solid var(--c-line);
  background: var(--c-paper);
}
.given .row {
  display: flex;
  border: 0;
  padding: 0;
}
.given :deep(.field) {
  display: flex;
  align-items: center;
  gap: 6px;
}
.given :deep(select),
.given :deep(input) {
  min-height: 26px;
  padding: 0 6px;
}
.over {
  position: absolute;
  right: 24px;
  top: 60px;
  z-index: 8;
}
.work {
  position: relative;
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
</style>
