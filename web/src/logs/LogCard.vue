<script setup lang="ts">
import { computed } from 'vue'
import { moment, toSecond } from '../kit/moment'
import LogActs from './LogActs.vue'
import LogFacts from './LogFacts.vue'
import { useLogs } from './useLogs'

// How one log stands, in an element of a screen.
const props = defineProps<{ project: string; program: 'draft' | 'release'; id: string; buttons: boolean }>()
const { logs, silentSince, act } = useLogs(() => props.project, props.program)
const log = computed(() => logs.value.find((l) => l.id === props.id))
</script>

<template>
  <div class="card">
    <template v-if="log">
      <strong>{{ log.name }}</strong>
      <p v-if="silentSince" class="silent" role="status">
        {{ $t('log.element.silent', { at: moment(silentSince, toSecond) }) }}
      </p>
      <LogFacts :log="log" :class="{ past: silentSince }" />
      <div v-if="buttons" class="acts fingers">
        <LogActs :log="log" @act="(what, text) => act(id, what, text)" />
      </div>
    </template>
    <p v-else class="quiet">{{ $t('log.element.none') }}</p>
  </div>
</template>

<style scoped>
.card {
  height: 100%;
  overflow: auto;
  padding: 8px 12px;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
.silent {
  margin: 4px 0;
  font-weight: 600;
}
.past {
  opacity: 0.6;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
</style>
