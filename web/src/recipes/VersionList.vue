<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import NameBox from '../kit/NameBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import { useNotice } from '../kit/problem'
import RecipeMark from './RecipeMark.vue'
import type { Book, OpenBook, Program } from './useBook'

// The versions of the recipe that is open: who wrote and judged each, compared by
// a press, approved and withdrawn by right.
const props = defineProps<{
  project: string
  program: Program
  book: Book
  open: OpenBook
  recipe: string
  latest: number
  state: string
}>()
const notice = useNotice()
const list = shallowRef<Schemas['VersionShown'][]>([])
async function load() {
  const params = { path: { project: props.project, id: props.recipe }, query: { program: props.program } }
  list.value = await ask(api.GET('/api/projects/{project}/recipes/{id}/versions', { params })).catch(
    (e) => (notice.refuse(e), list.value),
  )
}
watch(() => [props.recipe, props.latest, props.state], load, { immediate: true })
async function judge(version: number, approve: boolean, why = '') {
  await props.open.judge(props.recipe, version, approve, why)
  await load()
}
</script>

<template>
  <h2>{{ $t('recipe.versions') }}</h2>
  <ol class="versions">
    <li v-for="v in list" :key="v.number">
      <div class="line">
        <RecipeMark :state="v.state" :version="v.number" />
        <span class="quiet">{{ v.person }}, {{ moment(v.at, dayAndTime) }}</span>
      </div>
      <div v-if="v.why">{{ v.why }}</div>
      <div v-if="v.judgedBy" class="quiet">
        {{ $t($word('recipe.judged', v.state), { person: v.judgedBy, at: moment(v.judgedAt, dayAndTime) }) }}
        <template v-if="v.judgedWhy">· {{ v.judgedWhy }}</template>
      </div>
      <div class="acts">
        <button class="chip" @click="open.beside({ recipe, version: v.number })">
          {{ $t('recipe.compare') }}
        </button>
        <template v-if="book.mayApprove">
          <button
            v-if="v.state !== 'approved' && !(book.two && v.mine)"
            class="chip"
            @click="judge(v.number, true)">
            {{ $t('recipe.approve') }}
          </button>
          <NameBox
            v-else-if="v.state === 'approved'"
            :label="$t('recipe.withdraw')"
            :hint="$t('recipe.withdrawWhy')"
            @named="judge(v.number, false, $event)" />
          <span v-else class="quiet">{{ $t('recipe.another') }}</span>
        </template>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.versions {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  font-size: 13px;
}
li {
  padding: 6px 0;
  border-bottom: 1px solid var(--c-line);
}
.line,
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  font-size: 12px;
}
.acts {
  margin-top: 4px;
}
</style>
