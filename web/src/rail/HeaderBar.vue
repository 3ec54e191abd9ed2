<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { computed } from 'vue'
import { dayAndTime, moment } from '../kit/moment'
import { useProject } from './project'

const emit = defineEmits<{ find: [] }>()
const project = useProject()

const release = computed(() => project.overview?.release)
const since = computed(() => (release.value ? moment(release.value.at, dayAndTime) : ''))
const down = computed(() => project.links.filter((l) => l.state !== 'up' && l.state !== 'idle'))
</script>

<template>
  <header class="head">
    <strong class="name">{{ project.overview?.site.name }}</strong>
    <span class="chip">{{ $t('head.draft', { n: project.overview?.revision ?? 0 }) }}</span>
    <router-link
      class="chip"
      :class="{ on: release }"
      :to="{ name: 'release', params: { project: project.id } }">
      {{ release ? $t('head.release', { n: release.number, since }) : $t('head.noRelease') }}
      <template v-if="release && project.overview?.changed">· {{ $t('head.changed') }}</template>
    </router-link>
    <button class="finder" @click="emit('find')">
      <v-icon :icon="mdiMagnify" size="18" />
      <span>{{ $t('head.find') }}</span>
      <kbd class="mono">Ctrl K</kbd>
    </button>
    <span class="grow" />
    <router-link
      class="ticks"
      :to="{ name: 'devices', params: { project: project.id } }"
      :aria-label="$t('head.links')">
      <span
        v-for="l in project.links"
        :key="l.device"
        class="tick"
        :class="l.state"
        :title="`${l.name}: ${$t($word('link', l.state))} ${l.state === 'up' ? '' : l.problem}`" />
      <span v-if="down.length" class="down">
        {{ $t(down.length > 1 ? 'head.downMore' : 'head.down', { name: down[0]!.name, n: down.length - 1 }) }}
      </span>
    </router-link>
  </header>
</template>

<style scoped>
.head {
  height: 48px;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 16px;
  border-bottom: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.name {
  font-size: 16px;
  white-space: nowrap;
}
.finder {
  display: flex;
  align-items: center;
  gap: 8px;
  border: 1px solid var(--c-line);
  background: var(--c-paper);
  border-radius: 4px;
  padding: 4px 10px;
  color: var(--c-quiet);
  cursor: pointer;
  min-width: 200px;
}
.finder span {
  flex: 1;
  text-align: left;
}
kbd {
  font-size: 12px;
}
.grow {
  flex: 1;
}
.ticks {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--c-error);
  white-space: nowrap;
  overflow: hidden;
}
.tick {
  width: 7px;
  height: 18px;
  border-radius: 2px;
  background: var(--c-spruce);
  box-sizing: border-box;
}
.tick.down,
.tick.connecting {
  background: none;
  border: 2px solid var(--c-error);
}
.tick.idle {
  background: none;
  border: 2px dotted var(--c-quiet);
}
.down {
  margin-left: 6px;
  font-size: 12px;
  border: 0;
  width: auto;
  height: auto;
}
</style>
