<script setup lang="ts">
import { mdiLockOutline } from '@mdi/js'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import ScreenStill from '../../canvas/ScreenStill.vue'
import { useProject } from '../../rail/project'

// A screen in the screen map: its picture, its name and what it is.
const props = defineProps<{ screen: Schemas['ScreenInfo']; high: number }>()
const project = useProject()
const narrowed = computed(() => props.screen.roles.length + props.screen.operators.length > 0)
</script>

<template>
  <router-link
    :to="{ name: 'screens', params: { project: project.id, id: screen.id } }"
    class="spot"
    :class="screen.role">
    <span class="still" :style="{ height: high + 'px' }">
      <ScreenStill
        :project="project.id"
        :screen="screen.id"
        :width="screen.width"
        :height="screen.height"
        :version="project.version" />
    </span>
    <strong :title="screen.name">{{ screen.name }}</strong>
    <span class="quiet">
      <v-icon
        v-if="narrowed"
        :icon="mdiLockOutline"
        size="14"
        role="img"
        :aria-label="$t('editor.ownRights')"
        :title="$t('editor.ownRights')" />
      {{ $t($word('role', screen.role || 'main')) }}
    </span>
  </router-link>
</template>

<style scoped>
.spot {
  width: 184px;
  box-sizing: border-box;
  display: block;
  background: var(--c-sheet);
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  overflow: hidden;
  color: inherit;
  text-decoration: none;
}
.spot:hover,
.spot:focus-visible {
  border-color: var(--c-spruce);
  outline: 2px solid var(--c-spruce);
}
.spot.popup,
.spot.faceplate {
  border-style: dashed;
}
.still {
  display: block;
  border-bottom: 1px solid var(--c-line);
  overflow: hidden;
}
.spot strong,
.spot .quiet {
  display: block;
  padding: 0 8px;
  line-height: 20px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.spot .quiet {
  font-size: 12px;
}
</style>
