<script setup lang="ts">
import {
  mdiAlignHorizontalCenter,
  mdiAlignHorizontalLeft,
  mdiAlignHorizontalRight,
  mdiAlignVerticalBottom,
  mdiAlignVerticalCenter,
  mdiAlignVerticalTop,
  mdiArrangeBringToFront,
  mdiArrangeSendToBack,
  mdiAccessPoint,
  mdiArrowCollapseLeft,
  mdiArrowCollapseRight,
  mdiDockLeft,
  mdiDockRight,
  mdiClipboardCheckOutline,
  mdiPlayBoxOutline,
  mdiArrowExpandHorizontal,
  mdiArrowExpandVertical,
  mdiGroup,
  mdiUngroup,
  mdiDistributeHorizontalCenter,
  mdiDistributeVerticalCenter,
  mdiRedo,
  mdiUndo,
} from '@mdi/js'
import { isGroup } from '../../canvas/registry'
import { useI18n } from 'vue-i18n'
import { useSettings } from '../../kit/settings'
import { useProject } from '../../rail/project'
import type { Alignment } from './geometry'
import type { Editor } from './useEditor'

defineProps<{ editor: Editor; screen: string }>()
const emit = defineEmits<{ walk: [] }>()
const settings = useSettings()
const fold = (side: 'left' | 'right') =>
  (settings.folded = { ...settings.folded, [side]: !settings.folded[side] })
const live = defineModel<boolean>('live', { required: true })
const project = useProject()
const { t } = useI18n()
const aligns: [Alignment, string][] = [
  ['left', mdiAlignHorizontalLeft],
  ['centre', mdiAlignHorizontalCenter],
  ['right', mdiAlignHorizontalRight],
  ['top', mdiAlignVerticalTop],
  ['middle', mdiAlignVerticalCenter],
  ['bottom', mdiAlignVerticalBottom],
  ['across', mdiDistributeHorizontalCenter],
  ['down', mdiDistributeVerticalCenter],
  ['sameWidth', mdiArrowExpandHorizontal],
  ['sameHeight', mdiArrowExpandVertical],
]
</script>

<template>
  <div class="tools" role="toolbar">
    <button
      :title="$t('editor.foldLeft')"
      :aria-label="$t('editor.foldLeft')"
      :aria-pressed="!!settings.folded.left"
      @click="fold('left')">
      <v-icon :icon="settings.folded.left ? mdiDockLeft : mdiArrowCollapseLeft" size="18" />
    </button>
    <button
      :title="$t('keys.undo')"
      :aria-label="$t('keys.undo')"
      @click="project.step('undo', (label) => t('notice.undone', { label }))">
      <v-icon :icon="mdiUndo" size="18" />
    </button>
    <button
      :title="$t('keys.redo')"
      :aria-label="$t('keys.redo')"
      @click="project.step('redo', (label) => t('notice.redone', { label }))">
      <v-icon :icon="mdiRedo" size="18" />
    </button>
    <span class="sep" />
    <button
      v-for="[a, icon] in aligns"
      :key="a"
      :disabled="editor.selected.value.length < (a === 'across' || a === 'down' ? 3 : 2)"
      :title="$t($word('align', a))"
      :aria-label="$t($word('align', a))"
      @click="editor.align(a)">
      <v-icon :icon="icon" size="18" />
    </button>
    <span class="sep" />
    <button
      :disabled="!editor.selected.value.length"
      :title="$t('editor.front')"
      :aria-label="$t('editor.front')"
      @click="editor.raise(true)">
      <v-icon :icon="mdiArrangeBringToFront" size="18" />
    </button>
    <button
      :disabled="!editor.selected.value.length"
      :title="$t('editor.back')"
      :aria-label="$t('editor.back')"
      @click="editor.raise(false)">
      <v-icon :icon="mdiArrangeSendToBack" size="18" />
    </button>
    <button
      :disabled="editor.selected.value.length < 2"
      :title="$t('menu.group')"
      :aria-label="$t('menu.group')"
      @click="editor.group()">
      <v-icon :icon="mdiGroup" size="18" />
    </button>
    <button
      :disabled="!editor.selected.value.some(([, e]) => isGroup(e))"
      :title="$t('menu.ungroup')"
      :aria-label="$t('menu.ungroup')"
      @click="editor.ungroup()">
      <v-icon :icon="mdiUngroup" size="18" />
    </button>
    <span class="grow" />
    <router-link
      class="tool"
      :to="{ name: 'replay', params: { project: project.path.project, screen }, query: { program: 'draft' } }"
      :title="$t('replay.drafted')"
      :aria-label="$t('replay.drafted')">
      <v-icon :icon="mdiPlayBoxOutline" size="18" />
    </router-link>
    <button :title="$t('accept.walk')" :aria-label="$t('accept.walk')" @click="emit('walk')">
      <v-icon :icon="mdiClipboardCheckOutline" size="18" />
    </button>
    <button class="live" :class="{ on: live }" :aria-pressed="live" @click="live = !live">
      <v-icon :icon="mdiAccessPoint" size="18" />
      {{ $t('editor.live') }}
    </button>
    <button
      :title="$t('editor.foldRight')"
      :aria-label="$t('editor.foldRight')"
      :aria-pressed="!!settings.folded.right"
      @click="fold('right')">
      <v-icon :icon="settings.folded.right ? mdiDockRight : mdiArrowCollapseRight" size="18" />
    </button>
  </div>
</template>

<style scoped>
.tools {
  height: 40px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 1px;
  padding: 0 8px;
  border-bottom: 1px solid var(--c-line);
  background: var(--c-sheet);
  overflow: hidden;
}
button,
.tool {
  color: inherit;
  border: 1px solid transparent;
  background: none;
  border-radius: 4px;
  padding: 2px;
  cursor: pointer;
  flex: none;
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
.tool:hover,
button:hover:not(:disabled) {
  background: var(--c-tint);
}
button:disabled {
  opacity: 0.35;
  cursor: default;
}
.sep {
  width: 1px;
  height: 20px;
  background: var(--c-line);
  margin: 0 2px;
  flex: none;
}
.grow {
  flex: 1;
}
.live {
  border-color: var(--c-line);
  padding: 3px 8px;
  margin-left: 4px;
}
.live.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
  color: var(--c-spruce);
  font-weight: 650;
}
</style>
