<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import InspectorPane from '../../kit/InspectorPane.vue'
import ProofActs from '../../kit/ProofActs.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'

// The walk over a screen for its acceptance: element by element, what it shows,
// takes and does, and first of all who may use the screen.
type Check = Schemas['ScreenCheck']
const props = defineProps<{ editor: Editor; args: Record<string, string> }>()
const emit = defineEmits<{ close: []; marks: [marks: Map<string, 'open' | 'failed'>] }>()
const project = useProject()
const catalogue = useCatalogue()
const checks = shallowRef<Check[]>([])
const at = ref('')
const screen = computed(() => props.editor.doc.value!.id)

async function load() {
  const args = JSON.stringify(props.args)
  checks.value = await ask(
    api.GET('/api/projects/{project}/screens/{id}/checks', {
      params: { path: { ...project.path, id: screen.value }, query: { args } },
    }),
  ).catch(() => [])
}
const own = (element: string) => element.split('/')[0]!
watch(
  [() => project.version, screen, () => props.args],
  async ([, s], [, old] = [0, '', {}]) => {
    await load()
    if (s !== old) go(checks.value.find((c) => c.result === 'untested') ?? checks.value[0])
  },
  { immediate: true },
)
watch(checks, (all) => {
  const marks = new Map<string, 'open' | 'failed'>()
  for (const c of all)
    if (c.element && c.result !== 'passed' && marks.get(own(c.element)) !== 'failed')
      marks.set(own(c.element), c.result === 'failed' ? 'failed' : 'open')
  emit('marks', marks)
})
// An element that is clicked on the screen is the one to prove.
watch(props.editor.selection, (chosen) => {
  const [id] = chosen
  if (id && own(at.value) !== id)
    at.value = checks.value.find((c) => own(c.element) === id)?.element ?? at.value
})

const point = computed(() => checks.value.find((c) => c.element === at.value))
const done = computed(() => checks.value.filter((c) => c.result !== 'untested').length)
/** Open points of the same part within other cells of a repeat: what holds for one holds for all. */
const alike = computed(() => {
  const p = point.value
  if (!p || !p.element.includes('/')) return []
  const tail = (id: string) => id.split('/').at(-1)
  return checks.value.filter(
    (c) =>
      c.result === 'untested' &&
      c.kind === p.kind &&
      own(c.element) === own(p.element) &&
      tail(c.element) === tail(p.element),
  )
})

function go(c: Check | undefined) {
  if (!c) return
  at.value = c.element
  const { selection } = props.editor
  selection.value = new Set(
    c.element && props.editor.doc.value!.elements[own(c.element)] ? [own(c.element)] : [],
  )
}
function step(by: number, open = false) {
  const all = checks.value
  const from = all.findIndex((c) => c.element === at.value)
  for (let n = 1; n <= all.length; n++) {
    const c = all[(from + by * n + all.length * n) % all.length]!
    if (!open || c.result === 'untested') return go(c)
  }
}
async function say(elements: string[], result: 'passed' | 'failed' | '', note: string) {
  await ask(
    api.POST('/api/projects/{project}/screens/{id}/checks', {
      params: { path: { ...project.path, id: screen.value } },
      body: { args: props.args, elements, result, note: note || undefined },
    }),
  )
  await load()
  if (result) step(1, true)
}
</script>

<template>
  <InspectorPane :title="$t('accept.walk')" :note="$t('loop.progress', { done, of: checks.length })">
    <template #tools>
      <button class="chip" @click="emit('close')">{{ $t('loop.end') }}</button>
    </template>
    <div class="progress">
      <span :style="{ width: (checks.length ? (done / checks.length) * 100 : 0) + '%' }" />
    </div>
    <template v-if="point">
      <div>
        <strong class="name">
          {{ point.element ? point.name : $t('accept.access', { name: point.name }) }}
        </strong>
        <div v-if="point.kind" class="quiet">{{ catalogue.kindTitle(point.kind) }}</div>
      </div>
      <dl>
        <template v-for="(f, i) in point.facts" :key="i">
          <dt>
            {{
              f.name === 'role' || f.name === 'rows'
                ? f.about
                : $t($word('accept', f.name)) + (f.about ? ' · ' + $t('accept.of.' + f.about, f.about) : '')
            }}
          </dt>
          <dd :class="{ mono: f.name !== 'role' }">
            {{ f.name === 'role' || f.name === 'asks' ? $t('accept.may.' + f.text, f.text) : f.text }}
          </dd>
        </template>
      </dl>
      <v-btn
        v-if="alike.length > 1"
        variant="outlined"
        @click="
          say(
            alike.map((c) => c.element),
            'passed',
            '',
          )
        ">
        {{ $t('accept.alike', { n: alike.length }) }}
      </v-btn>
      <ProofActs
        :point="point"
        :of="point.element"
        :prove="(result, note) => say([point!.element], result, note)"
        @step="step" />
      <a class="quiet small" :href="`/api/projects/${project.id}/screen-checks/export`" download>
        {{ $t('accept.register') }}
      </a>
    </template>
  </InspectorPane>
</template>

<style scoped>
.name {
  font-size: 16px;
  overflow-wrap: anywhere;
}
dl {
  display: grid;
  grid-template-columns: minmax(80px, auto) 1fr;
  gap: 4px 12px;
  margin: 0;
  font-size: 13px;
}
dt {
  color: var(--c-quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
</style>
