<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../../api/client'
import { freshId, useProject } from '../../rail/project'
import InstanceTable from './InstanceTable.vue'
import MemberInspector from './MemberInspector.vue'
import TypeEditor from './TypeEditor.vue'
import TypeMaker from './TypeMaker.vue'
import { useTypeEdit } from './useTypeEdit'

// Types of equipment and what is made of them.
const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const making = ref(false)
const id = computed(() => (route.params.id as string) || project.types[0]?.id || '')
// A piece of equipment is looked at with its type.
watch(
  [id, () => project.types],
  async () => {
    if (!id.value || !project.types.length || project.types.some((x) => x.id === id.value)) return
    const piece = await ask(
      api.GET('/api/projects/{project}/equipment/{id}', {
        params: { path: { ...project.path, id: id.value } },
      }),
    ).catch(() => undefined)
    if (piece) void router.replace({ name: 'equipment', params: { project: project.id, id: piece.type } })
  },
  { immediate: true },
)
const type = shallowRef<Schemas['Type']>()
watch(
  [id, () => project.versionOf('type', 'paths')],
  async () => {
    type.value = id.value
      ? await ask(
          api.GET('/api/projects/{project}/types/{id}', {
            params: { path: { ...project.path, id: id.value } },
          }),
        ).catch(() => undefined)
      : undefined
  },
  { immediate: true },
)
const edit = useTypeEdit(type)
const chosen = ref('')
const member = computed(() => edit.members.value.find(([m]) => m === chosen.value)?.[1])
watch(id, () => (chosen.value = ''))
const open = (x: string) => router.push({ name: 'equipment', params: { project: project.id, id: x } })

async function add() {
  const fresh = freshId('type')
  let n = 1
  while (project.types.some((x) => x.name === 'Type' + n)) n++
  if (
    !(await project.edit(t('gear.added'), [
      { kind: 'type', id: fresh, path: '', value: { name: 'Type' + n, members: {} } },
    ]))
  ) {
    await project.refresh()
    await open(fresh)
  }
}
async function made(name: string) {
  making.value = false
  await project.refresh()
  const fresh = project.types.find((x) => x.name === name)
  if (fresh) await open(fresh.id)
}
function openType(type: string) {
  making.value = false
  void open(type)
}
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('gear.title') }}</h1>
      <span class="quiet">{{ $t('gear.line') }}</span>
      <span class="grow" />
    </div>
    <div class="split">
      <aside class="left">
        <button
          v-for="x in project.types"
          :key="x.id"
          class="type"
          :class="{ on: x.id === id && !making }"
          @click="openType(x.id)">
          <span>{{ x.name }}</span>
          <span class="quiet mono">{{ x.instances }}</span>
        </button>
        <v-btn variant="text" color="primary" @click="making = true">{{ $t('gear.ofTags') }}</v-btn>
        <v-btn variant="text" @click="add">+ {{ $t('gear.type') }}</v-btn>
      </aside>
      <TypeMaker v-if="making || !project.types.length" @made="made" @close="making = false" />
      <div v-else-if="type" class="work">
        <TypeEditor :key="type.id" :edit="edit" :chosen="chosen" @choose="chosen = $event" />
        <InstanceTable :key="'i' + type.id" :type="type" />
      </div>
      <MemberInspector v-if="member && !making" :id="chosen" :key="chosen" :edit="edit" :member="member" />
    </div>
  </section>
</template>

<style scoped>
.stop {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.grow {
  flex: 1;
}
.split {
  flex: 1;
  min-height: 0;
  display: flex;
}
.left {
  width: 168px;
  flex: none;
  border-right: 1px solid var(--c-line);
  background: var(--c-sheet);
  overflow: auto;
  padding: 8px 0;
  display: flex;
  flex-direction: column;
  align-items: stretch;
}
.left .v-btn {
  height: auto;
  min-height: 36px;
  padding-block: 6px;
}
.left .v-btn :deep(.v-btn__content) {
  white-space: normal;
}
.type {
  display: flex;
  justify-content: space-between;
  padding: 7px 14px;
  border: 0;
  background: none;
  cursor: pointer;
  text-align: left;
  color: var(--c-ink);
}
.type.on {
  background: var(--c-tint);
  font-weight: 650;
}
.work {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 14px 18px 40px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 22px;
  align-content: start;
}
</style>
