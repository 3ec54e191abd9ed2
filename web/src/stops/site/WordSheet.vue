<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { asFile } from '../../api/upload'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import TypedInput from '../../kit/TypedInput.vue'

// Every text of the project in one sheet, with its wording in each further
// language; out to a translator and back.
const project = useProject()
const notice = useNotice()
const { t, te } = useI18n()
const languages = computed(() => project.overview?.site.languages ?? [])
const language = ref('')
const rows = shallowRef<Schemas['SheetRow'][]>([])
const text = ref('')
watch(languages, (l) => (language.value = l.includes(language.value) ? language.value : (l[1] ?? '')), {
  immediate: true,
})
const path = computed(() => ({ ...project.path, language: language.value }))
watch(
  [language, () => project.version],
  async () => {
    rows.value = language.value
      ? await ask(
          api.GET('/api/projects/{project}/words/{language}', { params: { path: path.value } }),
        ).catch(() => [])
      : []
  },
  { immediate: true },
)
const shown = computed(() =>
  rows.value
    .filter((r) => `${r.text} ${r.word}`.toLowerCase().includes(text.value.toLowerCase()))
    .slice(0, 400),
)
const missing = computed(() => rows.value.filter((r) => !r.word && !r.stale).length)
const name = (l: string) => (te('lang.' + l) ? t('lang.' + l) : l)

async function say(r: Schemas['SheetRow'], word: string) {
  try {
    await ask(
      api.PUT('/api/projects/{project}/words/{language}', {
        params: { path: path.value },
        body: [{ ...r, word }],
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
}
async function bring(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  try {
    const got = await ask(
      api.POST('/api/projects/{project}/words/{language}/sheet', {
        params: { path: path.value },
        ...asFile(file),
      }),
    )
    notice.say(t('words.done', { n: got.rows }))
  } catch (err) {
    notice.refuse(err)
  }
}
const add = (code: string) =>
  code &&
  project.edit(t('site.edit'), [
    {
      kind: 'site',
      id: 'site',
      path: '/languages',
      value: [...(languages.value.length ? languages.value : ['en']), code],
    },
  ])
const others = ['en', 'de', 'fr', 'es', 'it', 'nl', 'pl', 'sv', 'pt']
</script>

<template>
  <div class="words">
    <h2>{{ $t('words.title') }}</h2>
    <p class="quiet">{{ $t('words.why') }}</p>
    <div class="row">
      <span v-for="(l, i) in languages" :key="l" class="chip">
        {{ name(l) }}{{ i ? '' : ' · ' + $t('words.first') }}
      </span>
      <select
        class="plain"
        :aria-label="$t('words.addLanguage')"
        @change="add(($event.target as HTMLSelectElement).value)">
        <option value="">+ {{ $t('words.addLanguage') }}</option>
        <option v-for="l in others.filter((x) => !languages.includes(x))" :key="l" :value="l">
          {{ name(l) }}
        </option>
      </select>
    </div>
    <template v-if="language">
      <div class="row">
        <select v-model="language" class="plain" :aria-label="$t('words.language')">
          <option v-for="l in languages.slice(1)" :key="l" :value="l">{{ name(l) }}</option>
        </select>
        <input v-model="text" class="plain" :placeholder="$t('stock.find')" :aria-label="$t('stock.find')" />
        <span class="quiet">{{ $t('words.missing', { n: missing }) }}</span>
        <a :href="`/api/projects/${project.id}/words/${language}/sheet?format=csv`">{{ $t('words.csv') }}</a>
        <a :href="`/api/projects/${project.id}/words/${language}/sheet?format=xlsx`">
          {{ $t('words.xlsx') }}
        </a>
        <label class="file">
          {{ $t('words.bring') }}
          <input type="file" accept=".csv,.xlsx" @change="bring" />
        </label>
      </div>
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('words.text') }}</th>
            <th>{{ name(language) }}</th>
            <th>{{ $t('words.places') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in shown" :key="r.text">
            <td>{{ r.text }}</td>
            <td>
              <TypedInput
                class="plain"
                :value="r.word"
                :aria-label="r.text"
                @change="say(r, ($event.target as HTMLInputElement).value)" />
            </td>
            <td class="quiet" :title="r.where">{{ r.stale ? $t('words.stale') : r.places }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.words {
  max-width: 900px;
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
td input {
  width: 100%;
}
p {
  margin: 0;
}
.file {
  font-size: 12px;
  color: var(--c-quiet);
}
</style>
