<script setup lang="ts">
import type { Schemas } from '../../api/client'

// The views that are kept, with the equipment that each can be opened for.
defineProps<{ views: Schemas['ViewShown'][]; open?: string; of?: string }>()
const emit = defineEmits<{ open: [view: string, of?: string] }>()
</script>

<template>
  <nav v-if="views.length" class="views" :aria-label="$t('history.views')">
    <h2>{{ $t('history.views') }}</h2>
    <div v-for="v in views" :key="v.id" class="view" :class="{ on: v.id === open }">
      <button
        class="bare name"
        :aria-current="v.id === open || undefined"
        :title="v.note"
        @click="emit('open', v.id, v.for[0]?.id)">
        {{ v.name }}
        <span v-if="v.mine" class="quiet">{{ $t('history.mineMark') }}</span>
      </button>
      <span v-if="v.id !== open || !v.type" class="quiet">{{ $t('history.pens', { n: v.own.length }) }}</span>
      <div v-else class="of">
        <button
          v-for="f in v.for"
          :key="f.id"
          class="chip"
          :class="{ on: f.id === of }"
          :aria-pressed="f.id === of"
          @click="emit('open', v.id, f.id)">
          {{ f.path }}
        </button>
      </div>
    </div>
  </nav>
</template>

<style scoped>
.views {
  flex: 0 1 auto;
  max-height: 45%;
  overflow: auto;
  padding: 8px 0;
  border-bottom: 1px solid var(--c-line);
}
h2 {
  margin: 0 14px 4px;
  font-size: 13px;
  font-weight: 600;
  color: var(--c-quiet);
}
.view {
  padding: 4px 14px;
  font-size: 13px;
}
.view.on {
  background: var(--c-tint);
}
.name {
  display: block;
  min-height: 24px;
  width: 100%;
  text-align: left;
  font-size: 14px;
}
.on .name {
  font-weight: 700;
}
.of {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 2px 0 4px;
  max-height: 120px;
  overflow: auto;
}
</style>
