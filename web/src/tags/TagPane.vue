<script setup lang="ts">
import { mdiFileTreeOutline } from '@mdi/js'
import { ref } from 'vue'
import FilterBox from '../kit/FilterBox.vue'
import { useSettings } from '../kit/settings'
import TagList from './TagList.vue'
import TagTree from './TagTree.vue'

// Tags to drag from, several at once with Ctrl or Shift, or to take where there
// is something that takes them: by folder, or as one list, which a filter always
// gives.
defineProps<{ taken?: ReadonlySet<string> }>()
const emit = defineEmits<{ take: [id: string] }>()
const settings = useSettings()
const text = ref('')
</script>

<template>
  <div class="pane">
    <div class="top">
      <FilterBox v-model="text" class="words" :label="$t('tags.filter')" />
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
    <TagTree v-if="settings.tagTree && !text.trim()" :taken="taken" @take="emit('take', $event)" />
    <TagList v-else :text="text" :taken="taken" @take="emit('take', $event)" />
  </div>
</template>

<style scoped>
.words {
  flex: 1;
  min-width: 0;
}
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
</style>
