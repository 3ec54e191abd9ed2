<script setup lang="ts">
import { shallowRef, useId, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { asFile } from '../../api/upload'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'

// A picture of the project, or one that is brought in here.
defineProps<{ label: string; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [id: string] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const id = useId()
const list = shallowRef<Schemas['PictureInfo'][]>([])
watch(
  () => project.versionOf('picture'),
  async () =>
    (list.value = await ask(
      api.GET('/api/projects/{project}/pictures', { params: { path: project.path } }),
    ).catch(() => [])),
  { immediate: true },
)

async function bring(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  try {
    const got = await ask(
      api.POST('/api/projects/{project}/pictures', {
        params: { path: project.path, query: { name: file.name } },
        ...asFile(file),
      }),
    )
    if (got.left?.length) notice.say(t('picture.left', { what: got.left.join(', ') }))
    emit('update:modelValue', got.id)
  } catch (err) {
    notice.refuse(err)
  }
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <select
      :id="id"
      :value="modelValue"
      @change="emit('update:modelValue', ($event.target as HTMLSelectElement).value)">
      <option value="">—</option>
      <option v-for="p in list" :key="p.id" :value="p.id">{{ p.name }} · {{ p.w }} × {{ p.h }}</option>
    </select>
    <input
      type="file"
      accept=".svg,.png,.jpg,.jpeg,image/svg+xml,image/png,image/jpeg"
      :aria-label="$t('picture.bring')"
      @change="bring" />
    <div v-if="list.find((p) => p.id === modelValue)?.parts.length" class="hint">
      {{
        $t('picture.parts', {
          ids: list
            .find((p) => p.id === modelValue)!
            .parts.slice(0, 12)
            .join(', '),
        })
      }}
    </div>
  </div>
</template>
