<script setup lang="ts">
import { mdiEyeOffOutline, mdiLockOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useCatalogue } from '../../rail/catalogue'
import type { Editor } from './useEditor'

// Every element by name, the highest first; what lies in a group below it.
const props = defineProps<{ editor: Editor }>()
const catalogue = useCatalogue()
const { t } = useI18n()
const text = ref('')
const depth = (id: string) => {
  let n = 0
  for (
    let g = props.editor.doc.value!.elements[id]?.group;
    g && n < 8;
    g = props.editor.doc.value!.elements[g]?.group
  )
    n++
  return n
}
const rows = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  return [...props.editor.order.value].reverse().flatMap((id) => {
    const e = props.editor.doc.value!.elements[id]!
    const kind = catalogue.kindTitle(e.kind)
    const name =
      e.name ||
      (typeof e.props?.caption === 'string' && e.props.caption) ||
      (typeof e.props?.text === 'string' && e.props.text) ||
      kind
    return words.every((w) => `${name} ${kind}`.toLowerCase().includes(w))
      ? [{ id, e, name, kind, depth: depth(id) }]
      : []
  })
})
let last = ''
function pick(id: string, e: MouseEvent) {
  if (e.shiftKey && last) {
    const ids = rows.value.map((r) => r.id)
    const [from, to] = [ids.indexOf(last), ids.indexOf(id)].sort((a, b) => a - b) as [number, number]
    if (from >= 0)
      return void (props.editor.selection.value = new Set([
        ...(e.ctrlKey ? props.editor.selection.value : []),
        ...ids.slice(from, to + 1),
      ]))
  }
  last = id
  const next = e.ctrlKey ? new Set(props.editor.selection.value) : new Set<string>()
  if (!next.delete(id)) next.add(id)
  props.editor.inside.value = props.editor.doc.value!.elements[id]?.group ?? ''
  props.editor.selection.value = next
}
const flip = (id: string, name: 'locked' | 'hidden', on: boolean) =>
  props.editor.set(t(on ? 'editor.' + name : 'editor.un' + name), [[id, name, on || undefined]])
</script>

<template>
  <div class="pane">
    <input
      v-model="text"
      class="plain find"
      :placeholder="$t('editor.findElement')"
      :aria-label="$t('editor.findElement')" />
    <div class="list" role="listbox" :aria-label="$t('editor.elements')">
      <div
        v-for="r in rows"
        :key="r.id"
        class="row"
        role="option"
        :aria-selected="editor.selection.value.has(r.id)"
        :class="{ on: editor.selection.value.has(r.id) }"
        :style="{ paddingLeft: 12 + r.depth * 14 + 'px' }"
        @click="pick(r.id, $event)">
        <span class="name" :title="r.kind">{{ r.name }}</span>
        <span class="quiet kind">{{ r.name === r.kind ? '' : r.kind }}</span>
        <button
          class="bare"
          :class="{ off: !r.e.locked }"
          :aria-label="$t($word('menu', r.e.locked ? 'unlock' : 'lock'))"
          @click.stop="flip(r.id, 'locked', !r.e.locked)">
          <v-icon :icon="mdiLockOutline" size="15" />
        </button>
        <button
          class="bare"
          :class="{ off: !r.e.hidden }"
          :aria-label="$t($word('menu', r.e.hidden ? 'unhide' : 'hide'))"
          @click.stop="flip(r.id, 'hidden', !r.e.hidden)">
          <v-icon :icon="mdiEyeOffOutline" size="15" />
        </button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.find {
  margin: 10px;
}
.list {
  overflow: auto;
  flex: 1;
}
.row {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 28px;
  padding-right: 6px;
  cursor: pointer;
}
.row:hover,
.row.on {
  background: var(--c-tint);
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.kind {
  font-size: 12px;
  white-space: nowrap;
}
.off {
  opacity: 0;
}
.row:hover .off,
.off:focus-visible {
  opacity: 0.4;
}
</style>
