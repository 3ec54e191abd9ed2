<script setup lang="ts">
import { onMounted, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'

// A type made of a folder of tags that exist; folders that are alike become
// equipment too. Every tag keeps its id.
const emit = defineEmits<{ made: [name: string]; close: [] }>()
const project = useProject()
const folders = shallowRef<Schemas['FolderInfo'][]>([])
const folder = ref('')
const name = ref('')
const alike = ref(true)
const plan = shallowRef<Schemas['Plan']>()
const problem = ref('')
onMounted(
  async () =>
    (folders.value = (
      await ask(api.GET('/api/projects/{project}/folders', { params: { path: project.path } })).catch(
        () => [],
      )
    ).filter((f) => !f.of)),
)
watch(folder, () => {
  const f = folders.value.find((x) => x.id === folder.value)
  if (f && !name.value) name.value = f.name.replace(/[\d[\]]+$/, '') || f.name
})
async function run(apply: boolean) {
  problem.value = ''
  if (!folder.value || !name.value.trim()) return
  try {
    plan.value = await ask(
      api.POST('/api/projects/{project}/plans/type', {
        params: { path: project.path },
        body: { apply, plan: { folder: folder.value, name: name.value.trim(), alike: alike.value } },
      }),
    )
    if (apply) emit('made', name.value.trim())
  } catch (e) {
    plan.value = undefined
    problem.value = sentence(e)
  }
}
watch([folder, name, alike], () => void run(false))
</script>

<template>
  <form class="maker" @submit.prevent="run(true)">
    <h2>{{ $t('gear.ofTags') }}</h2>
    <p class="quiet">{{ $t('gear.ofTagsWhy') }}</p>
    <div class="row">
      <label>
        {{ $t('gear.folder') }}
        <select v-model="folder" class="plain mono" :aria-label="$t('gear.folder')">
          <option value="" />
          <option v-for="f in folders" :key="f.id" :value="f.id">{{ f.path }} ({{ f.tags }})</option>
        </select>
      </label>
      <label>
        {{ $t('gear.typeName') }}
        <input v-model.lazy="name" class="plain mono" :aria-label="$t('gear.typeName')" />
      </label>
    </div>
    <label class="line">
      <input v-model="alike" type="checkbox" />
      {{ $t('gear.alike') }}
    </label>
    <table v-if="plan" class="grid">
      <thead>
        <tr>
          <th>{{ $t('gear.equipment') }}</th>
          <th>{{ $t('gear.tags') }}</th>
          <th>{{ $t('gear.settings') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in plan.lines" :key="l.path">
          <td class="mono"><PathText :path="l.path" /></td>
          <td class="mono">{{ l.from }}</td>
          <td class="mono">{{ l.address }}</td>
          <td class="err">{{ l.problem }}</td>
        </tr>
      </tbody>
    </table>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div>
      <v-btn type="submit" color="primary" :disabled="!plan || !!plan.problems">
        {{ $t('gear.make', { n: plan?.total ?? 0 }) }}
      </v-btn>
      {{ ' ' }}
      <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
    </div>
  </form>
</template>

<style scoped>
.maker {
  padding: 18px;
  display: grid;
  gap: 12px;
  align-content: start;
  max-width: 860px;
  flex: 1;
  overflow: auto;
}
.row {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
label {
  display: grid;
  font-size: 12px;
  color: var(--c-quiet);
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
}
p {
  margin: 0;
}
</style>
