<script setup lang="ts">
import { mdiPlus, mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import SitePicture from '../../links/SitePicture.vue'
import { freshId, useProject } from '../../rail/project'
import JournalRules from './JournalRules.vue'
import ReleaseRules from './ReleaseRules.vue'
import RecorderBounds from './RecorderBounds.vue'
import WordSheet from './WordSheet.vue'
import TypedInput from '../../kit/TypedInput.vue'

const project = useProject()
const { t } = useI18n()
const site = computed(() => project.overview?.site)
const areas = computed(() => site.value?.areas ?? [])

const sizes = [
  [1280, 800],
  [1024, 768],
  [1920, 1080],
  [1280, 1024],
  [800, 1280],
  [800, 480],
] as const

function set(path: string, value: unknown, was: unknown) {
  return project.edit(t('site.edit'), [{ kind: 'site', id: 'site', path, value, was }])
}
function size(text: string) {
  const [w, h] = text.split('×').map(Number)
  return project.edit(t('site.edit'), [
    { kind: 'site', id: 'site', path: '/panelWidth', value: w },
    { kind: 'site', id: 'site', path: '/panelHeight', value: h },
  ])
}
const setAreas = (next: typeof areas.value) => set('/areas', next, areas.value)
</script>

<template>
  <section v-if="site" class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.site') }}</h1>
      <span class="quiet">{{ $t('site.line') }}</span>
    </div>
    <div class="body">
      <div class="block fields">
        <FieldText
          class="wide"
          :label="$t('site.name')"
          :model-value="site.name"
          @update:model-value="set('/name', $event, site.name)" />
        <FieldText
          class="wide"
          :label="$t('common.description')"
          :model-value="site.description"
          @update:model-value="set('/description', $event, site.description)" />
        <FieldSelect
          :label="$t('site.panel')"
          :model-value="`${site.panelWidth}×${site.panelHeight}`"
          :options="
            [...new Set([`${site.panelWidth}×${site.panelHeight}`, ...sizes.map((s) => s.join('×'))])].map(
              (v) => ({ value: v, title: v.replace('×', ' × ') }),
            )
          "
          :hint="$t('site.screens', { w: project.overview?.screenWidth, h: project.overview?.screenHeight })"
          @update:model-value="size" />
      </div>
      <div>
        <h2>{{ $t('sitePicture.title') }}</h2>
        <p class="quiet">{{ $t('sitePicture.why') }}</p>
        <SitePicture />
      </div>
      <div class="block">
        <h2>{{ $t('site.areas') }}</h2>
        <p class="quiet">{{ $t('site.areasWhy') }}</p>
        <table class="grid">
          <thead>
            <tr>
              <th>{{ $t('common.name') }}</th>
              <th>{{ $t('site.within') }}</th>
              <th :title="$t('site.controlWhy')">{{ $t('site.control') }}</th>
              <th />
            </tr>
          </thead>
          <tbody>
            <tr v-for="(a, i) in areas" :key="a.id">
              <td>
                <TypedInput
                  class="plain"
                  :value="a.name"
                  :aria-label="$t('common.name')"
                  @change="
                    setAreas(
                      areas.map((x, j) =>
                        i === j ? { ...x, name: ($event.target as HTMLInputElement).value } : x,
                      ),
                    )
                  " />
              </td>
              <td>
                <select
                  class="plain"
                  :value="a.parent ?? ''"
                  :aria-label="$t('site.within')"
                  @change="
                    setAreas(
                      areas.map((x, j) =>
                        i === j
                          ? { ...x, parent: ($event.target as HTMLSelectElement).value || undefined }
                          : x,
                      ),
                    )
                  ">
                  <option value="">{{ $t('site.plant') }}</option>
                  <option v-for="o in areas.filter((x) => x.id !== a.id)" :key="o.id" :value="o.id">
                    {{ o.name }}
                  </option>
                </select>
              </td>
              <td>
                <input
                  type="checkbox"
                  :checked="a.control"
                  :aria-label="$t('site.control')"
                  :title="$t('site.controlWhy')"
                  @change="
                    setAreas(
                      areas.map((x, j) =>
                        i === j
                          ? { ...x, control: ($event.target as HTMLInputElement).checked || undefined }
                          : x,
                      ),
                    )
                  " />
              </td>
              <td>
                <button
                  class="bare"
                  :aria-label="$t('common.delete')"
                  @click="setAreas(areas.filter((x) => x.id !== a.id))">
                  <v-icon :icon="mdiTrashCanOutline" size="18" />
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <v-btn
          variant="text"
          color="primary"
          :prepend-icon="mdiPlus"
          @click="
            setAreas([...areas, { id: freshId('area'), name: $t('site.newArea') + ' ' + (areas.length + 1) }])
          ">
          {{ $t('site.addArea') }}
        </v-btn>
      </div>
      <ReleaseRules />
      <JournalRules />
      <RecorderBounds />
      <WordSheet />
    </div>
  </section>
</template>

<style scoped>
.body {
  padding: 16px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 28px;
}
.block {
  max-width: 720px;
}
</style>
