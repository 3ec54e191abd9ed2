<script setup lang="ts">
import { mdiFileTreeOutline, mdiFilterVariant } from '@mdi/js'
import { ref } from 'vue'
import { useSettings } from '../../kit/settings'
import TagList from './TagList.vue'
import TagTree from './TagTree.vue'

// Tags to drag onto the screen, several at once with Ctrl or Shift: by folder,
// or as one list, which a filter always gives.
const settings = useSettings()
const text = ref('')
</script>

<template>
  <div class="pane">
    <div class="top">
      <label class="filter">
        <v-icon :icon="mdiFilterVariant" size="16" />
        <input v-model="text" class="mono" :placeholder="$t('tags.filter')" :aria-label="$t('tags.filter')" />
      </label>
      <button
        class="bare"
        :class="{ on: settings.tagTree }"
        :aria-pressed="settings.tagTree"
        :aria-label="$t('editor.tagTree')"
        :title="$t('editor.tagTree')"
        @click="settings.tagTree = !settings.tagTree">
        <v-icon :icon="mdiFileTreeOutline" size="18" />
      </button>
    </div>
    <TagTree v-if="settings.tagTree && !text.trim()" />
    <TagList v-else :text="text" />
  </div>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.top {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 10px;
}
.top .bare {
  border-radius: 4px;
  padding: 4px;
}
.top .on {
  background: var(--c-tint);
}
.filter {
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 6px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-paper);
  padding: 0 8px;
  min-height: 32px;
}
.filter input {
  border: 0;
  outline: 0;
  background: none;
  color: inherit;
  width: 100%;
  font-size: 13px;
}
</style>
