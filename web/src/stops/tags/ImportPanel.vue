<script setup lang="ts">
import { mdiFileUploadOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useI18n } from 'vue-i18n'
import { useProject } from '../../rail/project'

// A list from a file or the clipboard: first what it would do, then, with a
// tick for each line, doing it. Nothing is changed before that.
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const text = ref('')
const file = ref('')
const preview = ref<Schemas['ImportPreview']>()
const problem = ref('')
const busy = ref(false)
const show = ref<'' | 'new' | 'changed' | 'same' | 'refused'>('')
const left = ref(new Set<number>())

const lines = computed(() => (preview.value?.lines ?? []).filter((l) => !show.value || l.status === show.value))
const takes = (l: Schemas['Line']) => l.status === 'new' || l.status === 'changed'
const taken = computed(() => (preview.value ? preview.value.new + preview.value.changed - left.value.size : 0))

async function look(content: string, name: string) {
  text.value = content
  file.value = name
  problem.value = ''
  preview.value = undefined
  left.value = new Set()
  busy.value = true
  try {
    preview.value = await ask(api.POST('/api/projects/{project}/import', { params: { path: project.path }, body: { text: content } }))
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
async function choose(e: Event) {
  const f = (e.target as HTMLInputElement).files?.[0]
  if (f) await look(await f.text(), f.name)
}
async function drop(e: DragEvent) {
  const f = e.dataTransfer?.files[0]
  if (f) await look(await f.text(), f.name)
}
async function paste(e: ClipboardEvent) {
  const s = e.clipboardData?.getData('text/plain')
  if (s && s.includes('\n')) await look(s, t('import.clipboard'))
}
function tick(l: Schemas['Line']) {
  const next = new Set(left.value)
  if (!next.delete(l.line)) next.add(l.line)
  left.value = next
}
async function apply() {
  busy.value = true
  try {
    const chosen = left.value.size ? preview.value!.lines.filter((l) => takes(l) && !left.value.has(l.line)).map((l) => l.line) : undefined
    await ask(api.POST('/api/projects/{project}/import', { params: { path: project.path }, body: { text: text.value, apply: true, lines: chosen } }))
    notice.say(t('import.done', { n: taken.value }))
    emit('close')
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const statuses = ['new', 'changed', 'same', 'refused'] as const
</script>

<template>
  <div class="panel" tabindex="0" @dragover.prevent @drop.prevent="drop" @paste="paste">
    <div class="top">
      <label class="file"><v-icon :icon="mdiFileUploadOutline" size="18" /> {{ $t('import.choose') }}<input type="file" accept=".csv,.txt,text/csv" @change="choose" /></label>
      <span class="quiet">{{ file || $t('import.hint') }}</span><span class="grow" />
      <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
      <v-btn color="primary" :disabled="!taken" :loading="busy" @click="apply">{{ $t('import.apply', { n: taken }) }}</v-btn>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="preview" class="counts">
      <button v-for="s in statuses" :key="s" class="chip" :class="{ on: show === s }" @click="show = show === s ? '' : s">{{ $t('import.' + s) }} {{ preview[s] }}</button>
    </div>
    <div v-if="preview" class="scroll">
      <table class="grid">
        <thead><tr><th class="tick" /><th>{{ $t('import.line') }}</th><th>{{ $t('tags.path') }}</th><th>{{ $t('tags.type') }}</th><th>{{ $t('tags.address') }}</th><th>{{ $t('import.what') }}</th></tr></thead>
        <tbody>
          <tr v-for="l in lines.slice(0, 1000)" :key="l.line">
            <td><input v-if="takes(l)" type="checkbox" :checked="!left.has(l.line)" :aria-label="l.path" @change="tick(l)" /></td>
            <td class="mono quiet">{{ l.line }}</td><td class="mono">{{ l.path }}</td><td class="mono">{{ l.type }}</td><td class="mono">{{ l.address }}</td>
            <td :class="{ err: l.status === 'refused' }"><strong>{{ $t('import.' + l.status) }}</strong>
              <template v-if="l.status === 'refused'"> · {{ l.column }}: {{ l.reason }}</template>
              <template v-for="d in l.differences ?? []" :key="d.field"> · {{ d.field }}: <s class="quiet">{{ d.was || '∅' }}</s> → {{ d.now || '∅' }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.panel { flex: 1; min-height: 0; display: flex; flex-direction: column; gap: 10px; padding: 12px 16px; outline: none; }
.top { display: flex; align-items: center; gap: 12px; }
.grow { flex: 1; }
.file { display: inline-flex; align-items: center; gap: 8px; border: 1px dashed var(--c-spruce); color: var(--c-spruce); border-radius: 4px; padding: 8px 14px; cursor: pointer; font-weight: 600; }
.file input { position: absolute; opacity: 0; width: 1px; height: 1px; }
.counts { display: flex; gap: 8px; }
.scroll { overflow: auto; flex: 1; }
.tick { width: 30px; }
td { max-width: 420px; }
</style>
