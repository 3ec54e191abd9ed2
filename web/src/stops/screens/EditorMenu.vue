<script setup lang="ts">
import { isGroup } from '../../canvas/registry'
import { computed } from 'vue'
import type { Editor, PlanName } from './useEditor'
import type { WordOf } from '../../i18n/word'

/** What can be done to the selection. */
const props = defineProps<{ editor: Editor }>()
const emit = defineEmits<{ done: []; into: [id: string]; plan: [name: PlanName]; point: [tag: string] }>()
const commands = computed(() => {
  const { editor } = props
  const chosen = editor.selected.value
  const one = chosen.length === 1 ? chosen[0]![1] : undefined
  const tag = one?.props?.tag as string | undefined
  const list: [WordOf<'menu'>, string, () => unknown, boolean?][] = [
    ['copy', 'Ctrl C', () => editor.copy()],
    ['paste', 'Ctrl V', () => editor.paste()],
    ['duplicate', 'Ctrl D', () => editor.duplicate()],
    ['steps', 'Ctrl Shift D', () => emit('plan', 'steps'), chosen.length > 0],
    ['group', 'Ctrl G', () => editor.group(), chosen.length > 1],
    ['ungroup', 'Ctrl Shift G', () => editor.ungroup(), chosen.some(([, e]) => isGroup(e))],
    ['into', 'Enter', () => emit('into', chosen[0]![0]), !!one && isGroup(one)],
    ['forward', 'Ctrl ]', () => editor.raise(true, true)],
    ['backward', 'Ctrl [', () => editor.raise(false, true)],
    ['front', 'Ctrl Shift ]', () => editor.raise(true)],
    ['back', 'Ctrl Shift [', () => editor.raise(false)],
    [
      one?.locked ? 'unlock' : 'lock',
      'Ctrl L',
      () => editor.flag('locked', !chosen.every(([, e]) => e.locked)),
    ],
    [
      one?.hidden ? 'unhide' : 'hide',
      'Ctrl H',
      () => editor.flag('hidden', !chosen.every(([, e]) => e.hidden)),
    ],
    ['symbol', 'Ctrl M', () => emit('plan', 'symbol'), chosen.length > 0],
    ['repeat', 'Ctrl Shift M', () => emit('plan', 'repeat'), chosen.length > 0],
    ['substitute', '', () => emit('plan', 'substitute')],
    ['point', '', () => emit('point', tag!), !!tag && !tag.startsWith('$')],
    ['delete', 'Del', () => editor.remove()],
  ]
  return list.filter(([, , , when]) => when !== false)
})
function command(run: () => unknown) {
  emit('done')
  void run()
}
</script>

<template>
  <div class="menu" role="menu" @pointerdown.stop>
    <button v-for="[name, key, run] in commands" :key="name" role="menuitem" @click="command(run)">
      <span>{{ $t($word('menu', name)) }}</span>
      <span class="quiet mono">{{ key }}</span>
    </button>
  </div>
</template>

<style scoped>
.menu {
  position: absolute;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 6px;
  box-shadow: 0 8px 28px #0003;
  padding: 4px;
  z-index: 6;
  width: 230px;
}
.menu button {
  display: flex;
  justify-content: space-between;
  width: 100%;
  border: 0;
  background: none;
  padding: 5px 10px;
  cursor: pointer;
  border-radius: 4px;
  text-align: left;
  color: var(--c-ink);
}
.menu button:hover,
.menu button:focus-visible {
  background: var(--c-tint);
}
.menu .mono {
  font-size: 12px;
}
</style>
