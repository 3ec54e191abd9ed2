<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../api/client'
import { asFile } from '../api/upload'
import DialogBox from '../kit/DialogBox.vue'
import { useNotice } from '../kit/problem'
import { problemText } from './problem'
import type { Book, OpenBook, Program } from './useBook'

// Recipes out of a sheet, looked at row by row before any comes in; and all of the
// book out as a file.
const props = defineProps<{ project: string; program: Program; book: Book; open: OpenBook }>()
const notice = useNotice()
const { t } = useI18n({ useScope: 'global' })
const file = shallowRef<Schemas['RecipeFile']>()
const left = ref(new Set<number>())
const why = ref('')
const busy = ref(false)
const MOST = 500
const path = computed(() => ({ project: props.project, book: props.book.id }))
const query = computed(() => ({ program: props.program }))
const link = (format: string) =>
  `/api/projects/${props.project}/books/${props.book.id}/sheet?format=${format}&program=${props.program}`

async function read(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  if (!chosen) return
  try {
    file.value = await ask(
      api.POST('/api/projects/{project}/books/{book}/sheet', {
        params: { path: path.value, query: query.value },
        ...asFile(chosen),
      }),
    )
    left.value = new Set()
    why.value = chosen.name
  } catch (err) {
    notice.refuse(err)
  }
}
const comes = (r: Schemas['RecipeRow']) => r.status === 'new' || r.status === 'changed'
const taken = computed(() => file.value?.rows.filter((r) => comes(r) && !left.value.has(r.line)) ?? [])
const count = (status: string) => file.value?.rows.filter((r) => r.status === status).length ?? 0
function tick(line: number) {
  const next = new Set(left.value)
  if (!next.delete(line)) next.add(line)
  left.value = next
}
async function bring() {
  busy.value = true
  const recipes = taken.value.map((r) => ({
    recipe: r.recipe || undefined,
    base: r.base || undefined,
    name: r.recipe ? undefined : r.name,
    values: r.values,
  }))
  try {
    await ask(
      api.POST('/api/projects/{project}/books/{book}/recipes', {
        params: { path: path.value, query: query.value },
        body: { recipes, why: why.value },
      }),
    )
    notice.say(t('recipe.file.done', { n: recipes.length }))
    file.value = undefined
    await props.open.list()
  } catch (err) {
    notice.refuse(err)
  }
  busy.value = false
}
const fields = computed(() => new Map(props.book.fields.map((f) => [f.id, f.title])))
const says = (r: Schemas['RecipeRow']) =>
  r.reason ||
  [
    r.status === 'changed' ? r.differs.map((id) => fields.value.get(id)).join(', ') : '',
    ...r.problems.map((p) => [fields.value.get(p.field ?? ''), problemText(t, p)].filter(Boolean).join(': ')),
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <label v-if="book.mayWrite" class="chip pick">
    {{ $t('recipe.file.bring') }}
    <input type="file" accept=".csv,.xlsx,.txt" @change="read" />
  </label>
  <span class="out">
    <a v-for="f in ['csv', 'xlsx', 'json']" :key="f" class="chip" :href="link(f)">{{ f.toUpperCase() }}</a>
  </span>
  <DialogBox v-if="file" :label="$t('recipe.file.title')" @close="file = undefined">
    <div class="box">
      <h2>{{ $t('recipe.file.title') }}</h2>
      <p>
        <span v-for="s in ['new', 'changed', 'same', 'refused']" :key="s" class="count">
          {{ $t($word('recipe.file', s)) }} {{ count(s) }}
        </span>
      </p>
      <p v-if="file.ignored.length" class="warn">
        {{ $t('recipe.file.ignored', { names: file.ignored.join(', ') }) }}
      </p>
      <div class="rows">
        <table class="grid">
          <tbody>
            <tr v-for="r in file.rows.slice(0, MOST)" :key="r.line">
              <td>
                <input
                  v-if="comes(r)"
                  type="checkbox"
                  :checked="!left.has(r.line)"
                  :aria-label="r.name"
                  @change="tick(r.line)" />
              </td>
              <td class="quiet mono">{{ r.line }}</td>
              <td>{{ r.name }}</td>
              <td :class="{ err: r.status === 'refused' }">{{ $t($word('recipe.file', r.status)) }}</td>
              <td :class="{ err: r.reason || r.problems.length }" :title="says(r)">{{ says(r) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="file.rows.length > MOST" class="quiet">
          {{ $t('recipe.more', { n: file.rows.length - MOST }) }}
        </p>
      </div>
      <div class="foot">
        <input v-model="why" class="plain" maxlength="300" :aria-label="$t('recipe.why')" />
        <v-btn color="primary" :loading="busy" :disabled="!taken.length" @click="bring">
          {{ $t('recipe.file.go', { n: taken.length }) }}
        </v-btn>
        <v-btn variant="text" @click="file = undefined">{{ $t('recipe.not') }}</v-btn>
      </div>
    </div>
  </DialogBox>
</template>

<style scoped>
.pick {
  cursor: pointer;
  position: relative;
}
.pick input {
  position: absolute;
  inset: 0;
  opacity: 0;
  width: 100%;
  cursor: pointer;
}
.pick:focus-within {
  outline: 2px solid var(--c-spruce);
}
.out {
  display: flex;
  gap: 6px;
  margin-left: auto;
}
.box {
  padding: 16px 20px;
  width: min(860px, 92vw);
}
.count {
  margin-right: 14px;
}
.rows {
  max-height: 50vh;
  overflow: auto;
}
.rows td {
  max-width: 380px;
  font-size: 13px;
}
.foot {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-top: 12px;
}
.foot input {
  flex: 1;
}
</style>
