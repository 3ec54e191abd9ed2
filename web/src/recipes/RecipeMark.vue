<script setup lang="ts">
import type { WordOf } from '../i18n/word'
// How a version of a recipe stands: words and a line, not colour alone.
defineProps<{ state: WordOf<'recipe.state'> | ''; version: number }>()
</script>

<template>
  <span v-if="state" class="mark" :class="state">{{ $t($word('recipe.state', state), { n: version }) }}</span>
</template>

<style scoped>
.mark {
  flex: none;
  border: 1px dashed var(--c-quiet);
  border-radius: 10px;
  padding: 0 7px;
  font-size: 11.5px;
  font-weight: 400;
  color: var(--c-quiet);
}
.approved {
  border: 1px solid var(--c-spruce);
  color: var(--c-spruce);
}
.withdrawn {
  text-decoration: line-through;
}
</style>
