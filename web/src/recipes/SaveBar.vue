<script setup lang="ts">
import { ref } from 'vue'
import type { OpenBook } from './useBook'

// What is edited and not saved: saved in one go, with why, or forgotten.
const props = defineProps<{ open: OpenBook }>()
const why = ref('')
const busy = ref(false)
async function save() {
  busy.value = true
  const ids = await props.open.save(why.value)
  busy.value = false
  if (ids.length) why.value = ''
}
</script>

<template>
  <div v-if="open.changed.value.length" class="bar" role="status">
    <strong>{{ $t('recipe.unsaved', { n: open.changed.value.length }) }}</strong>
    <input
      v-model="why"
      class="plain"
      maxlength="300"
      :placeholder="$t('recipe.why')"
      :aria-label="$t('recipe.why')"
      @keydown.enter="save" />
    <v-btn color="primary" size="small" :loading="busy" @click="save">{{ $t('recipe.save') }}</v-btn>
    <button class="chip" @click="open.forget">{{ $t('recipe.forget') }}</button>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  padding: 8px 16px;
  background: var(--c-tint);
  border-top: 1px solid var(--c-line);
}
input {
  flex: 1 1 180px;
  min-width: 0;
}
</style>
