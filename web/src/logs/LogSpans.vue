<script setup lang="ts">
import { mdiLayersOutline } from '@mdi/js'
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import FilterBox from '../kit/FilterBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import { useNotice } from '../kit/problem'
import { span } from '../kit/span'
import type { LogShown } from './useLogs'

// The spans and marks of a log, the newest first: a press shows one, and lays
// another under what is shown.
type Span = Schemas['LogSpan']
const props = defineProps<{
  project: string
  log: LogShown
  /** Id of the equipment whose spans are listed; all where it is not given. */
  of?: string
}>()
const emit = defineEmits<{ show: [span: Span]; compare: [span: Span] }>()
const notice = useNotice()
const text = ref('')
const words = refDebounced(text, 250)
const spans = shallowRef<Span[]>([])
const chosen = ref<number>()
const more = ref(false)
const PAGE = 200

async function load(before = 0) {
  const params = {
    path: { project: props.project, id: props.log.id },
    query: { text: words.value.trim(), of: props.of, before },
  }
  const got = await ask(api.GET('/api/projects/{project}/logs/{id}/spans', { params })).catch(() => undefined)
  if (!got) return
  spans.value = before ? [...spans.value, ...got] : got
  more.value = got.length === PAGE
}
watch([() => props.log.id, () => props.of, words], () => load(), { immediate: true })
// What begins and ends meanwhile: the log is looked at anew every other second.
watch(
  () => props.log,
  () => spans.value.length <= PAGE && load(),
)
function show(s: Span) {
  chosen.value = s.seq
  emit('show', s)
}
async function note(s: Span, text: string) {
  if (text === s.note) return
  const params = { path: { project: props.project, id: props.log.id } }
  await ask(
    api.POST('/api/projects/{project}/logs/{id}/notes', { params, body: { span: s.seq, note: text } }),
  ).catch(notice.refuse)
  await load()
}
const file = (s: Span) =>
  `/api/projects/${props.project}/trend/export?` +
  new URLSearchParams({
    log: props.log.id,
    tags: props.log.tags
      .filter((t) => !s.ofPath || t.path.startsWith(s.ofPath + '.'))
      .map((t) => t.id)
      .join(','),
    from: String(s.from),
    to: String(s.to || Date.now()),
  })
const open = computed(() => spans.value.find((s) => s.seq === chosen.value))
</script>

<template>
  <div class="spans">
    <h2>{{ $t('log.spans') }}</h2>
    <FilterBox v-model="text" class="words" :label="$t('log.findSpan')" />
    <p v-if="!spans.length" class="quiet none">{{ $t(log.cut ? 'log.noSpans' : 'log.uncut') }}</p>
    <ul>
      <li v-for="s in spans" :key="s.seq" :class="{ on: s.seq === chosen }">
        <button class="bare span" @click="show(s)">
          <span class="name">{{ s.mark ? '◆ ' : '' }}{{ s.name }}</span>
          <span class="quiet mono">{{ moment(s.from, dayAndTime) }}</span>
          <span class="quiet">
            {{ s.ofPath }}
            <template v-if="s.mark">{{ s.person }}</template>
            <template v-else>{{ s.to ? span((s.to - s.from) / 1000) : $t('log.lasts') }}</template>
          </span>
        </button>
        <button
          v-if="open && s.seq !== chosen && !s.mark && log.state !== 'gone'"
          class="bare under"
          :title="$t('log.compare', { name: s.name })"
          :aria-label="$t('log.compare', { name: s.name })"
          @click="emit('compare', s)">
          <v-icon :icon="mdiLayersOutline" size="18" />
        </button>
        <div v-if="s.seq === chosen" class="more">
          <input
            class="plain"
            :value="s.note"
            :placeholder="$t('log.note')"
            :aria-label="$t('log.note')"
            @change="note(s, ($event.target as HTMLInputElement).value)" />
          <a v-if="!s.mark && log.state !== 'gone'" class="chip" :href="file(s)" download>CSV</a>
        </div>
        <p v-else-if="s.note" class="quiet noted">{{ s.note }}</p>
        <p v-if="s.recipe" class="quiet noted">
          {{ $t('recipe.runs', { name: s.recipe, n: s.recipeVersion }) }}
        </p>
      </li>
    </ul>
    <button v-if="more" class="chip" @click="load(spans.at(-1)!.seq)">{{ $t('log.more') }}</button>
  </div>
</template>

<style scoped>
.spans {
  flex: 2 1 200px;
  min-height: 0;
  overflow: auto;
}
h2 {
  margin: 8px 12px 0;
  font-size: 13px;
  font-weight: 600;
  color: var(--c-quiet);
}
.words {
  margin: 6px 10px;
}
.none {
  margin: 4px 12px;
  font-size: 13px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  position: relative;
  padding: 4px 12px;
  font-size: 13px;
}
li.on {
  background: var(--c-tint);
}
.span {
  display: grid;
  width: 100%;
  text-align: left;
  padding-right: 24px;
}
.name {
  font-size: 14px;
}
.on .name {
  font-weight: 700;
}
.under {
  position: absolute;
  right: 10px;
  top: 6px;
  font-size: 16px;
  color: var(--c-spruce);
}
.more {
  display: flex;
  gap: 6px;
  padding: 4px 0;
}
.more input {
  flex: 1;
  min-width: 0;
}
.noted {
  margin: 0;
}
</style>
