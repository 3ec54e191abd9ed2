<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { nextTick, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { useProject } from './project'
import { stops } from './stops'
import { useWhere } from './where'
import PathText from '../kit/PathText.vue'
import { word } from '../i18n/word'

const open = defineModel<boolean>({ required: true })
const project = useProject()
const router = useRouter()
const { where, isPath } = useWhere()
const { t } = useI18n()
const text = ref('')
const hits = ref<Schemas['Hit'][]>([])
const at = ref(0)
const input = ref<HTMLInputElement>()

const look = useDebounceFn(async () => {
  const found = text.value
    ? await ask(
        api.GET('/api/projects/{project}/find', {
          params: { path: project.path, query: { text: text.value } },
        }),
      ).catch(() => [])
    : []
  const words = text.value.toLowerCase()
  const places = stops
    .filter((s) => t(word('stop', s.name)).toLowerCase().includes(words))
    .map((s) => ({ kind: 'stop' as const, id: s.name, name: t(word('stop', s.name)), note: '' }))
  hits.value = [...places, ...found]
  at.value = 0
}, 80)

watch(open, async (yes) => {
  if (!yes) return
  text.value = ''
  void look()
  await nextTick()
  input.value?.focus()
})
watch(text, () => look())

function go(h: Schemas['Hit'] | undefined) {
  if (!h) return
  open.value = false
  void router.push(h.kind === 'stop' ? { name: h.id, params: { project: project.id } } : where(h))
}
</script>

<template>
  <div v-if="open" class="back" @mousedown.self="open = false">
    <div class="box" role="dialog" :aria-label="$t('head.find')" @keydown.esc="open = false">
      <input
        ref="input"
        v-model="text"
        class="plain"
        :placeholder="$t('finder.hint')"
        :aria-label="$t('head.find')"
        role="combobox"
        aria-expanded="true"
        @keydown.down.prevent="at = Math.min(at + 1, hits.length - 1)"
        @keydown.up.prevent="at = Math.max(0, at - 1)"
        @keydown.enter="go(hits[at])" />
      <ul role="listbox">
        <li
          v-for="(h, i) in hits"
          :key="h.kind + h.id"
          role="option"
          :aria-selected="i === at"
          :class="{ on: i === at }"
          @click="go(h)"
          @mousemove="at = i">
          <span class="kind">{{ $t($word('kind', h.kind)) }}</span>
          <PathText class="found" :class="{ mono: isPath(h.kind) }" :path="h.name" />
          <span class="quiet note">{{ h.note }}</span>
        </li>
        <li v-if="text && !hits.length" class="quiet">{{ $t('finder.none') }}</li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.back {
  position: fixed;
  inset: 0;
  z-index: 2000;
  background: color-mix(in srgb, var(--c-rail) 30%, transparent);
  display: flex;
  justify-content: center;
  align-items: flex-start;
  padding-top: 64px;
}
.box {
  width: 620px;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 6px;
  padding: 10px;
  box-shadow: 0 12px 40px #0004;
}
.box input {
  font-size: 16px;
  min-height: 40px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 420px;
  overflow: auto;
}
li {
  display: flex;
  gap: 12px;
  padding: 6px 8px;
  border-radius: 4px;
  cursor: pointer;
  align-items: baseline;
}
li.on {
  background: var(--c-tint);
}
.kind {
  flex: none;
  width: 64px;
  font-size: 12px;
  color: var(--c-quiet);
}
.found {
  flex: 0 1 auto;
  max-width: 66%;
}
.note {
  flex: 1 1 80px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
  text-align: right;
}
</style>
