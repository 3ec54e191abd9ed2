<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { freshId, useProject } from '../../rail/project'
import EditorCanvas from './EditorCanvas.vue'
import EditorTools from './EditorTools.vue'
import ElementInspector from './ElementInspector.vue'
import ScreenInspector from './ScreenInspector.vue'
import ShelfPane from './ShelfPane.vue'
import TagPane from './TagPane.vue'
import { useEditor } from './useEditor'

const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const id = computed(() => (route.params.id as string) || project.screens[0]?.id || '')
const editor = useEditor(id)
const tab = ref<'screens' | 'tags' | 'shelf'>('screens')
const showLive = ref(true)
const canvas = ref<InstanceType<typeof EditorCanvas>>()

watch([() => route.params.element, editor.doc], ([e]) => {
  if (typeof e === 'string' && e && editor.doc.value?.elements[e]) {
    editor.selection.value = new Set([e])
    void router.replace({ name: 'screens', params: { project: project.id, id: id.value } })
  }
})
const open = (screen: string) => router.push({ name: 'screens', params: { project: project.id, id: screen } })

async function add() {
  const screen = freshId('screen')
  const n = project.screens.length + 1
  const value = { name: t('editor.newScreen') + ' ' + n, width: project.overview!.screenWidth, height: project.overview!.screenHeight, order: Math.max(0, ...project.screens.map((s) => s.order)) + 1, home: project.screens.length === 0 || undefined, elements: {} }
  if (!(await project.edit(t('editor.screenAdded'), [{ kind: 'screen', id: screen, path: '', value }]))) {
    tab.value = 'shelf'
    await project.refresh()
    await open(screen)
  }
}
</script>

<template>
  <div class="split">
    <aside class="left">
      <div class="tabs" role="tablist">
        <button v-for="x in (['screens', 'tags', 'shelf'] as const)" :key="x" role="tab" :aria-selected="tab === x" :class="{ on: tab === x }" @click="tab = x">{{ $t('editor.' + x) }}</button>
      </div>
      <div v-if="tab === 'screens'" class="list">
        <button v-for="s in project.screens" :key="s.id" class="screen" :class="{ on: s.id === id }" @click="open(s.id)"><span>{{ s.name }}</span><span v-if="s.home" class="chip">{{ $t('editor.first') }}</span><span class="quiet mono">{{ s.elements }}</span></button>
        <v-btn variant="text" color="primary" @click="add">+ {{ $t('editor.addScreen') }}</v-btn>
      </div>
      <TagPane v-else-if="tab === 'tags'" />
      <ShelfPane v-else @place="(k) => canvas?.placeInMiddle(k)" />
    </aside>
    <section v-if="editor.doc.value" class="work">
      <EditorTools v-model:live="showLive" :editor="editor" @zoom="(f) => canvas?.zoomBy(f)" @fit="canvas?.fit()" />
      <EditorCanvas ref="canvas" :key="id" :editor="editor" :live="showLive" />
    </section>
    <section v-else class="work"><div class="empty"><h2>{{ $t('editor.empty') }}</h2><p>{{ $t('editor.emptyWhy') }}</p><v-btn color="primary" @click="add">{{ $t('editor.addScreen') }}</v-btn></div></section>
    <ElementInspector v-if="editor.selected.value.length" :editor="editor" />
    <ScreenInspector v-else-if="editor.doc.value" :key="id" :editor="editor" />
  </div>
</template>

<style scoped>
.split { display: flex; height: 100%; }
.left { width: 216px; flex: none; display: flex; flex-direction: column; background: var(--c-sheet); border-right: 1px solid var(--c-line); min-height: 0; }
.tabs { display: grid; grid-template-columns: repeat(3, 1fr); border-bottom: 1px solid var(--c-line); }
.tabs button { background: none; border: 0; padding: 10px 0; cursor: pointer; border-bottom: 3px solid transparent; }
.tabs .on { border-color: var(--c-spruce); font-weight: 650; }
.list { overflow: auto; padding: 8px 0; }
.screen { display: flex; width: 100%; align-items: center; gap: 8px; padding: 7px 14px; border: 0; background: none; cursor: pointer; text-align: left; }
.screen > :first-child { flex: 1; }
.screen.on { background: var(--c-tint); font-weight: 650; }
.screen .mono { font-size: 12px; }
.work { flex: 1; min-width: 0; display: flex; flex-direction: column; }
</style>
