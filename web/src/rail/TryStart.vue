<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '../api/client'
import { useNotice } from '../kit/problem'
import { useCommissioning } from '../tags/useCommissioning'
import { useProject } from './project'

// Trying the draft: on stand-ins, or on what is read from the devices. Nothing
// it does reaches a device.
const emit = defineEmits<{ done: [] }>()
const project = useProject()
const router = useRouter()
const notice = useNotice()
const { state, load } = useCommissioning()
const live = ref<string[]>([])
const running = computed(() => state.value?.try)
const params = { path: project.path }

async function start() {
  try {
    await ask(api.PUT('/api/projects/{project}/try', { params, body: { live: live.value } }))
    await open()
  } catch (e) {
    notice.refuse(e)
  }
}
async function open() {
  emit('done')
  await router.push({ name: 'try', params: { project: project.id } })
}
async function stop() {
  await ask(api.DELETE('/api/projects/{project}/try', { params })).catch(notice.refuse)
  await load()
}
</script>

<template>
  <div class="box">
    <strong>{{ $t('try.title') }}</strong>
    <p class="quiet">{{ $t('try.why') }}</p>
    <template v-if="running">
      <p>{{ $t('try.running', { name: running.person }) }}</p>
      <v-btn color="primary" size="small" @click="open">{{ $t('try.open') }}</v-btn>
      {{ ' ' }}
      <v-btn variant="outlined" size="small" @click="stop">{{ $t('try.stop') }}</v-btn>
    </template>
    <form v-else @submit.prevent="start">
      <div class="quiet small">{{ $t('try.readFrom') }}</div>
      <label v-for="d in project.devices.filter((x) => x.protocol !== 'standin')" :key="d.id">
        <input v-model="live" type="checkbox" :value="d.id" />
        {{ d.name }}
      </label>
      <v-btn color="primary" size="small" type="submit">{{ $t('try.start') }}</v-btn>
    </form>
  </div>
</template>

<style scoped>
.box {
  background: var(--c-sheet);
  color: var(--c-ink);
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 12px 16px;
  width: 300px;
}
form {
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
}
.small {
  font-size: 12px;
}
p {
  margin: 4px 0 10px;
}
</style>
