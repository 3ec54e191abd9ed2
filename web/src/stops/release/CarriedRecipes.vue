<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

// What the draft's books make of the plant's recipes: those whose values are carried
// over, and those that will not hold any more.
const project = useProject()
const preview = shallowRef<Schemas['CarryPreview']>()
watch(
  () => project.versionOf('book'),
  async () => {
    preview.value = await ask(
      api.GET('/api/projects/{project}/carried-recipes', { params: { path: project.path } }),
    ).catch(() => undefined)
  },
  { immediate: true },
)
</script>

<template>
  <details v-if="preview?.count" class="carried">
    <summary>
      <strong>{{ $t('release.recipes', { n: preview.count, of: preview.looked }) }}</strong>
    </summary>
    <table class="grid">
      <tbody>
        <tr v-for="r in preview.list" :key="r.book + r.recipe">
          <td>
            <router-link :to="{ name: 'recipes', params: { project: project.id, id: r.book } }">
              {{ r.bookName }}
            </router-link>
          </td>
          <td>
            <strong>{{ r.name }}</strong>
          </td>
          <td>{{ r.alters ? $t('release.recipeAlters') : '' }}</td>
          <td class="err">{{ r.problem }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="preview.count > preview.list.length" class="quiet">
      {{ $t('recipe.more', { n: preview.count - preview.list.length }) }}
    </p>
  </details>
</template>

<style scoped>
.carried {
  padding: 8px 16px;
  border-bottom: 1px solid var(--c-line);
  max-height: 40%;
  overflow: auto;
  flex: none;
}
summary {
  cursor: pointer;
}
</style>
