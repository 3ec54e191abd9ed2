<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef, toRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence, type TagRow } from '../../api/client'
import InspectorPane from '../../kit/InspectorPane.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { commandKey } from '../../live/live'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import TurnBox from '../../tags/TurnBox.vue'
import type { useTagList } from '../../tags/useTagList'

// The guided walk from point to point: raw and engineering value side by side,
// a test value where it may be written, and one key for passed or failed.
const props = defineProps<{ list: ReturnType<typeof useTagList>; selected: string }>()
const emit = defineEmits<{ go: [id: string]; close: [] }>()
const project = useProject()
const { t } = useI18n()
const checks = shallowRef<Schemas['LoopCheck'][]>([])
const row = shallowRef<TagRow>()
const note = ref('')
const test = ref('')
const said = ref('')
const bad = ref(false)
const noteField = ref<HTMLInputElement>()
const turn = ref<InstanceType<typeof TurnBox>>()
const order = shallowRef<string[]>([])

async function load() {
  checks.value = await ask(api.GET('/api/projects/{project}/loop-checks', { params: { path: project.path } })).catch(() => checks.value)
}
watch([() => project.version, props.list.filter], async () => {
  await load()
  order.value = await props.list.ids().catch(() => [])
}, { immediate: true, deep: true })
const points = computed(() => {
  const by = new Map(checks.value.map((c) => [c.tag, c]))
  return order.value.flatMap((id) => by.get(id) ?? [])
})
const at = computed(() => points.value.findIndex((p) => p.tag === props.selected))
const point = computed(() => points.value[at.value])
const done = computed(() => points.value.filter((p) => p.result !== 'untested').length)
watch(points, (p) => {
  if (at.value < 0 && p.length) emit('go', (p.find((x) => x.result === 'untested') ?? p[0]!).tag)
})
watch(() => props.selected, async (id) => {
  note.value = ''
  test.value = ''
  said.value = ''
  row.value = id ? await ask(api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } })).catch(() => undefined) : undefined
}, { immediate: true })
const values = useTagValues(toRef(project, 'id'), computed(() => (props.selected ? [props.selected] : [])))
const value = computed(() => values.get(props.selected))

function step(by: number, open = false) {
  const all = points.value
  for (let n = 1; n <= all.length; n++) {
    const p = all[(at.value + by * n + all.length * n) % all.length]!
    if (!open || p.result === 'untested') return emit('go', p.tag)
  }
}
function say(text: string, isBad: boolean) {
  said.value = text
  bad.value = isBad
}
async function prove(result: 'passed' | 'failed' | '') {
  const p = point.value
  if (!p) return
  if (result === 'failed' && !note.value.trim()) {
    say(t('loop.needsNote'), true)
    await nextTick()
    noteField.value?.focus()
    return
  }
  try {
    await ask(api.POST('/api/projects/{project}/loop-checks', { params: { path: project.path }, body: { tags: [p.tag], result, note: note.value || undefined } }))
    await load()
    if (result) step(1, true)
  } catch (e) {
    say(sentence(e), true)
  }
}
async function write() {
  try {
    const o = await ask(api.POST('/api/projects/{project}/draft-writes', { params: { path: project.path }, body: { tag: props.selected, value: test.value, key: commandKey() } }))
    say(o.reason ? `${t('outcome.' + o.outcome)}: ${o.reason}` : `${t('outcome.' + o.outcome)}: ${o.new}`, o.outcome !== 'confirmed')
  } catch (e) {
    say(sentence(e), true)
  }
}
useEventListener('keydown', (e: KeyboardEvent) => {
  const el = e.target as HTMLElement
  if (e.ctrlKey || e.metaKey || e.altKey || ['INPUT', 'TEXTAREA', 'SELECT'].includes(el.tagName)) return
  const keys: Record<string, () => void> = { p: () => prove('passed'), f: () => prove('failed'), n: () => step(1), b: () => step(-1), u: () => prove('') }
  const act = keys[e.key.toLowerCase()]
  if (!act) return
  e.preventDefault()
  e.stopPropagation()
  act()
}, { capture: true })
</script>

<template>
  <InspectorPane :title="$t('loop.walk')" :note="$t('loop.progress', { done, of: points.length })">
    <template #tools><button class="chip" @click="emit('close')">{{ $t('loop.end') }}</button></template>
    <div class="bar"><span :style="{ width: (points.length ? (done / points.length) * 100 : 0) + '%' }" /></div>
    <TurnBox ref="turn" />
    <p v-if="!points.length" class="quiet">{{ $t('loop.none') }}</p>
    <template v-if="point && row">
      <div><strong class="mono path">{{ point.path }}</strong><div class="quiet">{{ row.tag.description }}</div><div class="mono quiet small">{{ project.deviceName(row.tag.device) }} · {{ row.tag.address }}<template v-if="row.reference"> · {{ row.reference }}</template></div></div>
      <div class="two">
        <div class="box"><span class="quiet small">{{ $t('loop.raw') }}</span><span class="mono big">{{ value?.raw ?? '—' }}</span></div>
        <div class="box" :class="{ veiled: value?.level === 'bad' }"><span class="quiet small">{{ $t('loop.value') }}</span><span class="mono big">{{ value?.level === 'bad' ? '—' : value?.text }} <small>{{ value?.level === 'bad' ? '' : row.tag.unit }}</small></span></div>
      </div>
      <div v-if="value?.reason" class="err">{{ value.reason }}</div>
      <form v-if="row.tag.access === 'readwrite'" class="write" @submit.prevent="write">
        <input v-model="test" class="plain mono" :placeholder="$t('loop.testValue')" :aria-label="$t('loop.testValue')" :disabled="!turn?.mine" /><v-btn variant="outlined" type="submit" :disabled="!turn?.mine || !test">{{ $t('loop.write') }}</v-btn>
      </form>
      <label class="noteline">{{ $t('loop.note') }}<input ref="noteField" v-model="note" class="plain" @keydown.enter="prove('failed')" /></label>
      <div class="acts">
        <v-btn color="primary" @click="prove('passed')">{{ $t('loop.passed') }}<kbd>P</kbd></v-btn><v-btn variant="outlined" @click="prove('failed')">{{ $t('loop.failed') }}<kbd>F</kbd></v-btn>
        <v-btn variant="text" @click="step(1)">{{ $t('loop.next') }}<kbd>N</kbd></v-btn><v-btn variant="text" @click="step(-1)">{{ $t('loop.back') }}<kbd>B</kbd></v-btn>
      </div>
      <div v-if="said" :class="bad ? 'problem' : 'good'" role="status">{{ said }}</div>
      <div class="state"><strong>{{ $t('check.' + (point.outdated ? 'outdated' : point.result)) }}</strong>
        <template v-if="point.person"> · {{ point.person }}, {{ moment(point.at!, dayAndTime) }} · <span class="mono">{{ point.seen }}</span><template v-if="point.raw"> ({{ $t('loop.raw') }} <span class="mono">{{ point.raw }}</span>)</template><div v-if="point.note">{{ point.note }}</div><div v-if="point.outdated" class="err">{{ $t('loop.outdated') }}</div></template>
      </div>
    </template>
  </InspectorPane>
</template>

<style scoped>
.bar { height: 6px; background: var(--c-line); border-radius: 3px; overflow: hidden; flex: none; }
.bar span { display: block; height: 100%; background: var(--c-spruce); }
.path { font-size: 16px; overflow-wrap: anywhere; }
.small { font-size: 12px; }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; }
.box { border: 1px solid var(--c-line); border-radius: 4px; padding: 6px 10px; display: flex; flex-direction: column; }
.big { font-size: 22px; font-weight: 650; overflow-wrap: anywhere; }
.write { display: flex; gap: 8px; }
.noteline { font-size: 12px; color: var(--c-quiet); }
.acts { display: flex; flex-wrap: wrap; gap: 8px; }
kbd { margin-left: 8px; border: 1px solid currentColor; border-radius: 3px; padding: 0 5px; font-size: 11px; opacity: 0.8; }
.good { color: var(--c-spruce); }
.state { border-top: 1px solid var(--c-line); padding-top: 8px; font-size: 13px; }
</style>
