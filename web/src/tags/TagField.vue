<script setup lang="ts">
import { ref, useId, watch } from 'vue'
import { api, ask } from '../api/client'
import { useProject } from '../rail/project'

// A tag by its path, with what matches while it is typed; a tag can be dropped
// on it.
const props = defineProps<{ label: string; modelValue: string; screen?: string }>()
const emit = defineEmits<{ 'update:modelValue': [id: string] }>()
const project = useProject()
const id = useId()
const text = ref('')
const hits = ref<{ id: string; path: string }[]>([])
const wrong = ref(false)

watch(
  [() => props.modelValue, () => project.versionOf('tag/' + props.modelValue, 'type', 'equipment', 'paths')],
  async () => {
    if (props.modelValue.startsWith('$')) {
      const point = (await points('')).find((x) => x.id === props.modelValue)
      text.value = point?.path ?? ''
      wrong.value = !point
      return
    }
    const r = props.modelValue
      ? await ask(
          api.GET('/api/projects/{project}/tags/{id}', {
            params: { path: { ...project.path, id: props.modelValue } },
          }),
        ).catch(() => undefined)
      : undefined
    text.value = r?.path ?? ''
    wrong.value = !!props.modelValue && !r
  },
  { immediate: true },
)

/** What the parameters of the screen have, where there is one. */
async function points(text: string) {
  return props.screen
    ? await ask(
        api.GET('/api/projects/{project}/screens/{id}/points', {
          params: { path: { ...project.path, id: props.screen }, query: { text } },
        }),
      ).catch(() => [])
    : []
}

async function look() {
  const page = await ask(
    api.GET('/api/projects/{project}/tags', {
      params: { path: project.path, query: { text: text.value, limit: 20 } },
    }),
  ).catch(() => undefined)
  hits.value = [
    ...(await points(text.value)).map((x) => ({ id: x.id, path: x.path })),
    ...(page?.rows ?? []).map((r) => ({ id: r.tag.id, path: r.path })),
  ]
}
async function commit() {
  if (!text.value.trim()) return emit('update:modelValue', '')
  await look()
  const found = hits.value.find((h) => h.path.toLowerCase() === text.value.trim().toLowerCase())
  wrong.value = !found
  if (found) emit('update:modelValue', found.id)
}
function drop(e: DragEvent) {
  const tags = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  const dropped = JSON.parse(e.dataTransfer?.getData('application/x-rr-points') || '[]') as { id: string }[]
  const id = tags[0] ?? dropped[0]?.id
  if (id) emit('update:modelValue', id)
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      v-model="text"
      class="mono"
      :list="id + 'l'"
      autocomplete="off"
      spellcheck="false"
      :aria-invalid="wrong"
      @input="look"
      @change="commit"
      @dragover.prevent
      @drop.prevent.stop="drop" />
    <datalist :id="id + 'l'"><option v-for="h in hits" :key="h.id" :value="h.path" /></datalist>
    <div v-if="wrong" class="hint err" role="alert">
      {{ text ? $t('inspector.noTag', { path: text }) : $t('inspector.tagGone') }}
    </div>
  </div>
</template>
