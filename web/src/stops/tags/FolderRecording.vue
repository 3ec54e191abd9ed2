<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import DialogBox from '../../kit/DialogBox.vue'
import { useProject } from '../../rail/project'
import type { Folder } from '../../tags/useFolders'
import RecordingFields from './RecordingFields.vue'

// What the recorder does with the tags of a folder that say nothing of their own.
const props = defineProps<{ folder: Folder }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const { t } = useI18n({ useScope: 'global' })
const refused = ref('')
async function set(record: Schemas['Recording'] | undefined) {
  const problem = await project.edit(t('recording.edited', { path: props.folder.path }), [
    { kind: 'folder', id: props.folder.id, path: '/record', value: record },
  ])
  refused.value = problem?.message ?? ''
}
</script>

<template>
  <DialogBox :label="$t('recording.of', { path: folder.path })" @close="emit('close')">
    <div class="box">
      <h2>{{ $t('recording.of', { path: folder.path }) }}</h2>
      <RecordingFields :record="folder.record" :usual="$t('recording.above')" @set="set" />
      <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
      <button class="chip on" @click="emit('close')">{{ $t('notice.close') }}</button>
    </div>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(420px, 92vw);
  padding: 18px 22px;
  display: grid;
  gap: 10px;
}
h2 {
  margin: 0;
  font-size: 18px;
}
.refused {
  margin: 0;
  color: var(--c-error);
}
.chip {
  justify-self: end;
}
</style>
