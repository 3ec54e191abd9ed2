<script setup lang="ts">
import type { WordOf } from '../i18n/word'
const open = defineModel<boolean>({ required: true })
const keys: [string, WordOf<'keys'>][] = [
  ['Ctrl K', 'find'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['Ctrl /', 'list'],
  ['↑ ↓ ← →', 'move'],
  ['Shift ↑', 'moveFar'],
  ['Alt ↑', 'movePixel'],
  ['Ctrl C / V', 'copy'],
  ['Ctrl D', 'duplicate'],
  ['Ctrl Shift D', 'steps'],
  ['Ctrl M', 'symbol'],
  ['Ctrl G', 'group'],
  ['Ctrl Shift G', 'ungroup'],
  ['Ctrl L', 'lock'],
  ['Ctrl H', 'hide'],
  ['Ctrl [ ]', 'order'],
  ['Enter', 'inside'],
  ['Menu', 'menu'],
  ['Ctrl A', 'all'],
  ['Del', 'delete'],
  ['Esc', 'none'],
  ['Ctrl + / −', 'zoom'],
  ['Ctrl 0', 'fit'],
  ['Ctrl 1', 'full'],
  ['Ctrl \\', 'panes'],
]
</script>

<template>
  <v-dialog v-model="open" width="420">
    <v-card class="pa-5">
      <h2>{{ $t('keys.title') }}</h2>
      <dl>
        <template v-for="[k, what] in keys" :key="k">
          <dt class="mono">{{ k }}</dt>
          <dd>{{ $t($word('keys', what)) }}</dd>
        </template>
      </dl>
    </v-card>
  </v-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: 6px 12px;
  margin: 12px 0 0;
}
dt {
  color: var(--c-spruce);
  font-weight: 600;
}
dd {
  margin: 0;
}
</style>
