<script setup lang="ts">
import { mdiFileUploadOutline } from '@mdi/js'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, Refused, type Schemas, sentence } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import MatchEditor from './MatchEditor.vue'
import PathText from '../../kit/PathText.vue'

// A list from a file or the clipboard: first what it would do, then, with a
// tick for each line, doing it. Nothing is changed before that.
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
type Status = 'new' | 'changed' | 'same' | 'gone' | 'clashing' | 'refused'
const statuses: Status[] = ['new', 'changed', 'same', 'gone', 'clashing', 'refused']
const info = shallowRef<Schemas['ImportInfo']>()
const lines = shallowRef<Schemas['Line'][]>([])
const total = ref(0)
const problem = ref('')
const busy = ref(false)
const show = ref<'' | Status>('')
const text = ref('')
const taken = ref<Set<Status>>(new Set(['new', 'changed']))
const flip = ref(new Set<string>())
const options = ref<Schemas['Options']>({})
const matching = ref(false)

const can = (l: Schemas['Line']) =>
  l.status === 'new' ||
  l.status === 'changed' ||
  l.status === 'gone' ||
  (l.status === 'clashing' && l.column !== 'path')
const ticked = (l: Schemas['Line']) => taken.value.has(l.status as Status) !== flip.value.has(l.key)
// A tick that was turned round counts by the line that it is on.
const turned = ref(new Map<string, Status>())
const count = computed(() => {
  let n = [...taken.value].reduce((sum, s) => sum + (info.value?.counts[s] ?? 0), 0)
  for (const s of turned.value.values()) n += taken.value.has(s) ? -1 : 1
  return n
})
const path = computed(() => ({ ...project.path, id: info.value?.id ?? '' }))

async function run(work: () => Promise<void>) {
  busy.value = true
  problem.value = ''
  try {
    await work()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const begin = (data: Blob | string, name: string) =>
  run(async () => {
    info.value = undefined
    lines.value = []
    flip.value = new Set()
    turned.value = new Map()
    options.value = {}
    const r = await fetch(`/api/projects/${project.id}/imports?name=${encodeURIComponent(name)}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: data,
    })
    const answer = await r.json()
    if (!r.ok) throw new Refused(answer)
    await adopt(answer as Schemas['ImportInfo'])
  })
async function adopt(i: Schemas['ImportInfo']) {
  info.value = i
  matching.value = i.needs
  if (!i.needs) await page(0)
}
async function page(offset: number) {
  if (!info.value) return
  const got = await ask(
    api.GET('/api/projects/{project}/imports/{id}/lines', {
      params: { path: path.value, query: { status: show.value, text: text.value, offset, limit: 300 } },
    }),
  )
  lines.value = offset ? [...lines.value, ...got.lines] : got.lines
  total.value = got.total
}
watch([show], () => run(() => page(0)))
const soon = useDebounceFn(() => run(() => page(0)), 120)
const tune = (match?: Schemas['Matching']) =>
  run(async () => {
    flip.value = new Set()
    turned.value = new Map()
    await adopt(
      await ask(
        api.PUT('/api/projects/{project}/imports/{id}', {
          params: { path: path.value },
          body: { match, options: options.value },
        }),
      ),
    )
  })
const choose = (e: Event) => take((e.target as HTMLInputElement).files)
const drop = (e: DragEvent) => take(e.dataTransfer?.files)
function take(files: FileList | null | undefined) {
  const f = files?.[0]
  if (f) void begin(f, f.name)
}
function paste(e: ClipboardEvent) {
  if ((e.target as HTMLElement).tagName === 'INPUT') return
  const s = e.clipboardData?.getData('text/plain')
  if (s?.includes('\n')) void begin(s, t('import.clipboard'))
}
function tick(l: Schemas['Line']) {
  const next = new Set(flip.value)
  const map = new Map(turned.value)
  if (next.delete(l.key)) map.delete(l.key)
  else {
    next.add(l.key)
    map.set(l.key, l.status as Status)
  }
  flip.value = next
  turned.value = map
}
function takeAll(s: Status) {
  const next = new Set(taken.value)
  if (!next.delete(s)) next.add(s)
  taken.value = next
  // What was turned round of this kind is now as all of it.
  for (const [k, status] of turned.value) {
    if (status !== s) continue
    flip.value.delete(k)
    turned.value.delete(k)
  }
  flip.value = new Set(flip.value)
  turned.value = new Map(turned.value)
}
function leave(folder: string, out: boolean) {
  const list = (options.value.leave ?? []).filter((f) => f !== folder)
  options.value = { ...options.value, leave: out ? [...list, folder] : list }
  void tune()
}
function keep(column: string, on: boolean) {
  const list = (options.value.keep ?? []).filter((c) => c !== column)
  options.value = { ...options.value, keep: on ? [...list, column] : list }
  void tune()
}
/** Whether the structures of the list become equipment. */
const asTypes = ref(true)
const apply = () =>
  run(async () => {
    const done = await ask(
      api.POST('/api/projects/{project}/imports/{id}/apply', {
        params: { path: path.value },
        body: { statuses: [...taken.value], flip: [...flip.value], types: asTypes.value },
      }),
    )
    notice.say(
      [
        t('import.done', { n: done.tags }),
        done.types.length && t('import.typesMade', { names: done.types.join(', ') }),
        ...done.problems,
      ]
        .filter(Boolean)
        .join(' · '),
    )
    emit('close')
  })
const keepable = ['description', 'unit', 'decimals', 'limit_low', 'limit_high', 'states', 'area', 'access']
function setOption(change: Partial<typeof options.value>) {
  options.value = { ...options.value, ...change }
  tune()
}
</script>

<template>
  <div class="panel" tabindex="0" @dragover.prevent @drop.prevent="drop" @paste="paste">
    <div class="top">
      <label class="file">
        <v-icon :icon="mdiFileUploadOutline" size="18" />
        {{ $t('import.choose') }}
        <input type="file" accept=".csv,.txt,.xlsx,.xml,.tsv" @change="choose" />
      </label>
      <span class="quiet">
        {{ info ? `${info.name} · ${$t($word('import.format', info.format))}` : $t('import.hint') }}
      </span>
      <span class="grow" />
      <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
      <v-btn color="primary" :disabled="!count || matching" :loading="busy" @click="apply">
        {{ $t('import.apply', { n: count }) }}
      </v-btn>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <MatchEditor v-if="info && matching" :info="info" @match="tune" @cancel="matching = false" />
    <template v-else-if="info">
      <p v-if="info.ignored.length" class="quiet">
        {{ $t('import.ignored', { columns: info.ignored.join(', ') }) }}
      </p>
      <div class="counts">
        <span v-for="s in statuses" :key="s" class="pair">
          <input
            v-if="s !== 'same' && s !== 'refused'"
            type="checkbox"
            :checked="taken.has(s)"
            :disabled="!info.counts[s]"
            :aria-label="$t('import.take', { what: $t($word('import', s)) })"
            :title="$t('import.take', { what: $t($word('import', s)) })"
            @change="takeAll(s)" />
          <button class="chip" :class="{ on: show === s }" @click="show = show === s ? '' : s">
            {{ $t($word('import', s)) }} {{ info.counts[s] ?? 0 }}
          </button>
        </span>
        <input
          v-model="text"
          class="plain mono find"
          :placeholder="$t('tags.filter')"
          :aria-label="$t('import.find')"
          @input="soon" />
        <select
          v-if="!info.match"
          class="plain pick"
          :value="options.device ?? ''"
          :aria-label="$t('import.device')"
          :title="$t('import.device')"
          @change="setOption({ device: ($event.target as HTMLSelectElement).value || undefined })">
          <option value="">{{ $t('import.deviceByRow') }}</option>
          <option v-for="d in project.devices" :key="d.id" :value="d.id">{{ d.name }}</option>
        </select>
        <button v-if="info.match" class="chip" @click="matching = true">{{ $t('import.matching') }}</button>
        <FieldCheck
          :label="$t('import.renames')"
          :model-value="!options.noRenames"
          @update:model-value="setOption({ noRenames: !$event || undefined })" />
      </div>
      <div class="work">
        <div class="scroll">
          <table class="grid">
            <thead>
              <tr>
                <th class="tick" />
                <th>{{ $t('import.line') }}</th>
                <th>{{ $t('tags.path') }}</th>
                <th>{{ $t('tags.type') }}</th>
                <th>{{ $t('tags.address') }}</th>
                <th>{{ $t('import.what') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="l in lines" :key="l.key">
                <td>
                  <input
                    v-if="can(l)"
                    type="checkbox"
                    :checked="ticked(l)"
                    :aria-label="l.path"
                    @change="tick(l)" />
                </td>
                <td class="mono quiet">{{ l.line || '' }}</td>
                <td class="mono">
                  <PathText :path="l.path" />
                  <span v-if="l.was" class="quiet">← {{ l.was }}</span>
                </td>
                <td class="mono">{{ l.type }}</td>
                <td class="mono">{{ l.address }}</td>
                <td class="does" :class="{ err: l.status === 'refused' || l.status === 'clashing' }">
                  <strong>{{ l.renames ? $t('import.renamed') : $t($word('import', l.status)) }}</strong>
                  <template v-if="l.reason">{{ ` · ${l.column}: ${l.reason}` }}</template>
                  <template v-for="d in l.differences ?? []" :key="d.field">
                    · {{ d.field }}:
                    <s class="quiet">{{ d.was || '∅' }}</s>
                    → {{ d.now || '∅' }}
                  </template>
                </td>
              </tr>
            </tbody>
          </table>
          <button v-if="lines.length < total" class="bare more" @click="run(() => page(lines.length))">
            {{ $t('import.more', { n: total - lines.length }) }}
          </button>
        </div>
        <aside class="side">
          <template v-if="info.types.length">
            <h2>{{ $t('import.types') }}</h2>
            <FieldCheck v-model="asTypes" :label="$t('import.asTypes', { names: info.types.join(', ') })" />
          </template>
          <template v-if="info.folders.length">
            <h2>{{ $t('import.folders') }}</h2>
            <label v-for="f in info.folders" :key="f" class="mono line">
              <input
                type="checkbox"
                :checked="!(options.leave ?? []).includes(f)"
                @change="leave(f, !($event.target as HTMLInputElement).checked)" />
              <PathText :path="f" />
            </label>
          </template>
          <h2>{{ $t('import.keep') }}</h2>
          <p class="quiet small">{{ $t('import.keepWhy') }}</p>
          <label v-for="c in keepable" :key="c" class="mono line">
            <input
              type="checkbox"
              :checked="(options.keep ?? []).includes(c)"
              @change="keep(c, ($event.target as HTMLInputElement).checked)" />
            {{ c }}
          </label>
        </aside>
      </div>
    </template>
  </div>
</template>

<style scoped>
.panel {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 16px;
  outline: none;
}
.top {
  display: flex;
  align-items: center;
  gap: 12px;
}
.grow {
  flex: 1;
}
.file {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  border: 1px dashed var(--c-spruce);
  color: var(--c-spruce);
  border-radius: 4px;
  padding: 8px 14px;
  cursor: pointer;
  font-weight: 600;
  white-space: nowrap;
}
.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}
.counts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.pair {
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
input[type='checkbox'] {
  accent-color: var(--c-spruce);
  width: 16px;
  height: 16px;
}
.find {
  width: 170px;
  min-height: 28px;
}
.pick {
  width: 130px;
  min-height: 28px;
}
.work {
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 14px;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.side {
  width: 176px;
  flex: none;
  overflow: auto;
  border-left: 1px solid var(--c-line);
  padding-left: 14px;
}
.side h2 {
  margin: 6px 0 4px;
}
.side .line {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 24px;
  font-size: 13px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.small {
  font-size: 12px;
  margin: 0 0 4px;
}
.tick {
  width: 30px;
}
td {
  max-width: 420px;
}
td > :deep(.path-text) {
  max-width: 200px;
}
td.does {
  white-space: normal;
  width: 50%;
  min-width: 210px;
  padding-block: 6px;
}
.more {
  color: var(--c-spruce);
  padding: 10px;
}
</style>
