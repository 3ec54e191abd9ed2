<script setup lang="ts">
import { ref, useId, watch } from 'vue'
import { api, ask } from '../../api/client'
import { useProject } from '../../rail/project'

// An alarm by its name, with what matches while it is typed.
const props = defineProps<{ label: string; name: string }>()
const emit = defineEmits<{ set: [id: string | undefined] }>()
const project = useProject()
const id = useId()
const text = ref('')
const wrong = ref(false)
const hits = ref<{ id: string; name: string }[]>([])
watch(
  () => props.name,
  (name) => (text.value = name),
  { immediate: true },
)
async function look() {
  const params = { path: project.path, query: { text: text.value } }
  const found = await ask(api.GET('/api/projects/{project}/find', { params })).catch(() => [])
  hits.value = found.filter((h) => h.kind === 'alarm')
}
async function commit() {
  wrong.value = false
  if (!text.value.trim()) return emit('set', undefined)
  await look()
  const found = hits.value.find((h) => h.name.toLowerCase() === text.value.trim().toLowerCase())
  wrong.value = !found
  if (found) emit('set', found.id)
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      v-model="text"
      :list="id + 'l'"
      autocomplete="off"
      spellcheck="false"
      :aria-invalid="wrong"
      @input="look"
      @change="commit" />
    <datalist :id="id + 'l'"><option v-for="h in hits" :key="h.id" :value="h.name" /></datalist>
    <div v-if="wrong" class="hint err" role="alert">{{ $t('log.noAlarm', { name: text }) }}</div>
  </div>
</template>
